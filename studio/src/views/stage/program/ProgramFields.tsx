import type { StageObject } from "@bumbrel/core/document/scene";
import { exposedBy } from "@bumbrel/core/kinds/programs";
import { PROGRAM_EXAMPLES } from "@bumbrel/core/program/examples";
import { exposedKey } from "@bumbrel/core/program/exposed";
import { SquarePen } from "lucide-react";
import { Button } from "../../../ui/Button";
import { KindMenu } from "../../../ui/KindMenu";
import { useScene, useWorkbench } from "../../project/context";
import { SELECT } from "../fields";
import { chooseProgram, openProgram, setLink, writeProgram } from "./programEdits";

/** Chooses the program of objects, writes a new one, or opens it. */
export function ProgramField({ objects, label }: { objects: readonly StageObject[]; label: string }) {
  const workbench = useWorkbench();
  const programs = useScene((scene) => scene.programs);
  const id = (objects[0].settings.programId as string | null | undefined) ?? null;
  return (
    <>
      <select
        aria-label={label}
        className={SELECT}
        value={id ?? ""}
        onChange={(event) => chooseProgram(workbench, objects, event.target.value || null)}
      >
        <option value="">none</option>
        {programs.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
          </option>
        ))}
      </select>
      {id !== null && (
        <Button className="text-sm" onClick={() => openProgram(id)}>
          <SquarePen size={13} aria-hidden /> Open
        </Button>
      )}
      <KindMenu
        words="Write a program"
        items={Object.values(PROGRAM_EXAMPLES).map((example) => ({
          label: example.label,
          help: example.help,
          icon: SquarePen,
          onSelect: () => openProgram(writeProgram(workbench, objects, example)),
        }))}
      />
    </>
  );
}

/** What a program is given from the project: a field for each strand, fan, sound and image that it asks for. */
export function LinkFields({ objects }: { objects: readonly StageObject[] }) {
  const workbench = useWorkbench();
  const [object] = objects;
  const { programId } = object.settings;
  const program = useScene((scene) => scene.programs.find(({ id }) => id === programId));
  const scene = useScene(({ strands, sounds, assets }) => ({ strands, sounds, assets }));
  const links = useScene((all) => all.objects.find(({ id }) => id === object.id)?.links);
  if (!program) return null;
  return exposedBy(program).flatMap(({ name, type, label, help, property }) => {
    if (property) return [];
    const key = exposedKey(name);
    const choices =
      type === "sound"
        ? scene.sounds
        : type === "picture"
          ? scene.assets.filter(({ kind }) => kind === "picture")
          : scene.strands.filter(({ measure }) => (type === "fan") === (measure.kind === "fan"));
    return [
      <div
        key={key}
        title={help}
        className="flex flex-wrap items-center gap-x-2 gap-y-1 border-t border-rule py-1.5"
      >
        <span className="font-semibold">{label}</span>
        <span className="text-sm text-mist">is</span>
        <select
          aria-label={label}
          className={SELECT}
          value={links?.[key] ?? ""}
          onChange={(event) => setLink(workbench, objects, key, event.target.value || null)}
        >
          <option value="">no {type === "picture" ? "image" : type}</option>
          {choices.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </div>,
    ];
  });
}
