import type { SavedState } from "@bumbrel/api/contracts";
import { changeWords } from "@bumbrel/core/check/placeWords";
import type { Scene } from "@bumbrel/core/document/scene";
import { changesBetween } from "@bumbrel/core/document/versions/changes";
import { useQuery } from "@tanstack/react-query";
import { Eye, EyeOff, History, RotateCcw, X } from "lucide-react";
import { Popover } from "radix-ui";
import { useEffect, useState } from "react";
import { api } from "../../../api/client";
import { useAudition, useEditing, useLibrary, useProjectId, useWholeScene } from "../../../session/context";
import { Button, IconButton } from "../../../ui/Button";

/** Changes that are told of one comparison. */
const MOST_CHANGES = 30;

const timeOf = (savedAt: string) =>
  new Date(savedAt).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });

/** The last saved states of a project: looked at, compared with now, and taken back. */
export function EarlierStates() {
  const editing = useEditing();
  const library = useLibrary();
  const audition = useAudition();
  const projectId = useProjectId();
  const [isOpen, setOpen] = useState(false);
  const [looked, setLooked] = useState<{ id: number; scene: Scene }>();
  const [failure, setFailure] = useState<string>();
  useEffect(() => () => audition.lookAt(undefined), [audition]);
  const { data: states = [], error } = useQuery({
    queryKey: ["states", projectId],
    queryFn: async () => {
      await editing.flush();
      return api.states(projectId);
    },
    enabled: isOpen,
    staleTime: 0,
    gcTime: 0,
  });
  const lookAt = async (id: number | undefined): Promise<Scene | undefined> => {
    setFailure(undefined);
    if (id === undefined) {
      audition.lookAt(undefined);
      setLooked(undefined);
      return undefined;
    }
    try {
      const { scene, facts } = await api.state(projectId, id);
      library.know(facts);
      audition.lookAt(scene);
      setLooked({ id, scene });
      return scene;
    } catch (problem) {
      setFailure((problem as Error).message);
      return undefined;
    }
  };
  const takeBack = async ({ id, savedAt }: SavedState) => {
    const scene = looked?.id === id ? looked.scene : await lookAt(id);
    if (!scene) return;
    audition.lookAt(undefined);
    setLooked(undefined);
    editing.edit(`take back the state of ${timeOf(savedAt)}`, (draft) => {
      for (const key of Object.keys(draft)) delete (draft as unknown as Record<string, unknown>)[key];
      Object.assign(draft, scene);
    });
    setOpen(false);
  };
  const close = (open: boolean) => {
    setOpen(open);
    if (!open) void lookAt(undefined);
  };
  return (
    <Popover.Root open={isOpen} onOpenChange={close}>
      <Popover.Trigger asChild>
        <IconButton label="Earlier states">
          <History size={18} />
        </IconButton>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={8}
          aria-label="Earlier states"
          onInteractOutside={(event) => event.preventDefault()}
          className="floating z-30 flex max-h-[70vh] w-96 flex-col"
        >
          <header className="flex items-center gap-2 border-b border-rule px-4 py-2">
            <h2 className="grow font-semibold">Earlier states</h2>
            <Popover.Close asChild>
              <IconButton small label="Close earlier states">
                <X size={16} />
              </IconButton>
            </Popover.Close>
          </header>
          {(failure ?? error) && (
            <p role="alert" className="px-4 py-2 text-sm text-alarm">
              {failure ?? error?.message}
            </p>
          )}
          {states.length === 0 && !error && (
            <p className="px-4 py-3 text-sm text-mist">
              Nothing has been saved yet. The last save of each minute is kept, fifty of them.
            </p>
          )}
          <ol className="min-h-0 overflow-y-auto">
            {states.map((state, i) => (
              <State
                key={state.id}
                state={state}
                isNewest={i === 0}
                isFirst={i === states.length - 1}
                looked={looked?.id === state.id ? looked.scene : undefined}
                onLook={(look) => void lookAt(look ? state.id : undefined)}
                onTakeBack={() => void takeBack(state)}
              />
            ))}
          </ol>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

interface StateProps {
  state: SavedState;
  isNewest: boolean;
  isFirst: boolean;
  /** Its scene, while it is looked at. */
  looked: Scene | undefined;
  onLook(look: boolean): void;
  onTakeBack(): void;
}

function State({ state, isNewest, isFirst, looked, onLook, onTakeBack }: StateProps) {
  const { savedAt, changes, moreChanges } = state;
  const words = isFirst ? "the oldest that is kept" : changes.join("; ");
  return (
    <li className={`grid gap-1 border-b border-rule px-4 py-2 ${looked ? "bg-raised" : ""}`}>
      <p className="flex items-baseline gap-2">
        <time dateTime={savedAt} className="grow">
          {timeOf(savedAt)}
        </time>
        {isNewest && <span className="text-sm text-mist">as saved now</span>}
      </p>
      <p className="text-sm text-mist">
        {words || "nothing that is told of"}
        {moreChanges > 0 && `, and ${moreChanges} more`}
      </p>
      {!isNewest && (
        <div className="flex gap-2">
          <Button className="text-sm" aria-pressed={looked !== undefined} onClick={() => onLook(!looked)}>
            {looked ? <EyeOff size={14} aria-hidden /> : <Eye size={14} aria-hidden />}
            {looked ? "Back to now" : "Look at it"}
          </Button>
          <Button className="text-sm" onClick={onTakeBack}>
            <RotateCcw size={14} aria-hidden /> Take it back
          </Button>
        </div>
      )}
      {looked && <Compared earlier={looked} />}
    </li>
  );
}

/** How an earlier state differs from the present one. */
function Compared({ earlier }: { earlier: Scene }) {
  const now = useWholeScene();
  const words = [
    ...new Set(changesBetween(earlier, now).map((change) => changeWords(change, [now, earlier]))),
  ];
  return (
    <div className="text-sm">
      <p className="text-mist">
        {words.length === 0 ? "It is as the scene is now." : "You are looking at it. Since then:"}
      </p>
      <ul className="max-h-40 list-disc overflow-y-auto pl-4">
        {words.slice(0, MOST_CHANGES).map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
      {words.length > MOST_CHANGES && <p className="text-mist">and {words.length - MOST_CHANGES} more</p>}
    </div>
  );
}
