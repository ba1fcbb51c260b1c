import { Redo2, Undo2 } from "lucide-react";
import { Link, NavLink } from "react-router";
import { useDocument, useEditing, useScene } from "../../session/context";
import { useUi } from "../../session/viewState";
import { IconButton } from "../../ui/Button";
import { NameField } from "../../ui/fields/NameField";
import { ThemeButton } from "../../ui/ThemeButton";
import { EarlierStates } from "./history/EarlierStates";
import { ImportStatus } from "./ImportStatus";
import { SaveStatus } from "./SaveStatus";

/** The views in the order the work is done. */
const VIEWS = [
  ["sounds", "Sounds"],
  ["strands", "Strands"],
  ["stage", "Stage"],
  ["try", "Try"],
  ["deliver", "Deliver"],
] as const;

export function Ribbon() {
  const editing = useEditing();
  const theme = useUi((state) => state.theme);
  const setTheme = useUi((state) => state.setTheme);
  const { undoLabel, redoLabel } = useDocument((state) => ({
    undoLabel: state.undoLabel,
    redoLabel: state.redoLabel,
  }));
  return (
    <header className="flex items-center gap-4 border-b border-rule px-4">
      <Link to="/" aria-label="To the shelf" title="To the shelf" className="shrink-0">
        <img src="/icon.svg" alt="" className="size-7" />
      </Link>
      <ProjectName />
      <nav aria-label="Views" className="flex h-full">
        {VIEWS.map(([path, label]) => (
          <NavLink
            key={path}
            to={path}
            className={({ isActive }) =>
              `flex items-center border-b-2 px-4 pt-0.5 transition ${
                isActive
                  ? "border-brass font-semibold text-brass"
                  : "border-transparent text-mist hover:text-paper"
              }`
            }
          >
            {label}
          </NavLink>
        ))}
      </nav>
      <div className="ml-auto flex items-center gap-1">
        <ImportStatus />
        <SaveStatus />
        <IconButton
          label={undoLabel ? `Undo: ${undoLabel}` : "Nothing to undo"}
          disabled={!undoLabel}
          onClick={editing.undo}
        >
          <Undo2 size={18} />
        </IconButton>
        <IconButton
          label={redoLabel ? `Redo: ${redoLabel}` : "Nothing to redo"}
          disabled={!redoLabel}
          onClick={editing.redo}
        >
          <Redo2 size={18} />
        </IconButton>
        <EarlierStates />
        <ThemeButton {...{ theme, onChange: setTheme }} />
      </div>
    </header>
  );
}

function ProjectName() {
  const editing = useEditing();
  const name = useScene((scene) => scene.name);
  return (
    <NameField
      label="Project name"
      className="w-52 py-0.5 text-lg"
      value={name}
      onRename={(next) =>
        editing.edit("rename the project", (scene) => {
          scene.name = next;
        })
      }
    />
  );
}
