import type { Mark } from "@bumbrel/core/document/scene";
import { Flag, Trash2 } from "lucide-react";
import { Popover } from "radix-ui";
import { useRef } from "react";
import { useEditing, usePlayer, useScene, useTransport } from "../../session/context";
import { addMark, editMark, removeMark } from "../../session/edits/answers";
import { useTakeTicks } from "../../session/takeTicks";
import { IconButton } from "../../ui/Button";
import { NameField } from "../../ui/fields/NameField";
import { formatTime } from "../../ui/format";
import { useFrame } from "../../ui/live/frames";
import { useCanvas } from "../../ui/live/useCanvas";
import { themeColour } from "../../ui/strandLook";

/** Sets a mark where the tape is. */
export function MarkHere() {
  const player = usePlayer();
  const editing = useEditing();
  return (
    <IconButton label="Set a mark here" onClick={() => addMark(editing, Math.max(0, player.tapeS))}>
      <Flag size={16} />
    </IconButton>
  );
}

/** The tape's marks as flags along its top; each can be named, moved to, and taken away. */
export function TapeMarks() {
  const marks = useScene((scene) => scene.marks);
  const { durationS } = useTransport();
  if (marks.length === 0 || durationS === 0) return null;
  return (
    <>
      {marks.map((mark) => (
        <MarkFlag key={mark.id} mark={mark} share={Math.min(1, mark.timeS / durationS)} />
      ))}
    </>
  );
}

function MarkFlag({ mark, share }: { mark: Mark; share: number }) {
  const editing = useEditing();
  const player = usePlayer();
  const { transport } = player;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={`Mark ${mark.name} at ${formatTime(mark.timeS)}`}
          title={`${mark.name}, ${formatTime(mark.timeS)}`}
          className={`absolute top-0 h-full border-l text-brass hover:border-brass ${mark.beginsSection ? "border-brass" : "border-brass/50 border-dashed"}`}
          style={{ left: `${share * 100}%` }}
          onPointerDown={(event) => event.stopPropagation()}
        >
          <span className="absolute top-0 left-0 max-w-24 truncate rounded-r-sm bg-ground/80 px-1 text-[11px] leading-4">
            {mark.name}
          </span>
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          sideOffset={6}
          className="floating z-30 grid w-64 gap-2 p-3 text-sm"
          onPointerDown={(event) => event.stopPropagation()}
        >
          <div className="flex items-center gap-1">
            <NameField
              label="Mark name"
              className="min-w-0 grow"
              value={mark.name}
              onRename={(name) => {
                editMark(editing, mark.id, { name });
                editing.endGesture();
              }}
            />
            <IconButton small label={`Remove ${mark.name}`} onClick={() => removeMark(editing, mark.id)}>
              <Trash2 size={14} />
            </IconButton>
          </div>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-[var(--brass)]"
              checked={mark.beginsSection}
              onChange={(event) => {
                editMark(editing, mark.id, { beginsSection: event.target.checked });
                editing.endGesture();
              }}
            />
            A section begins here
          </label>
          <div className="flex gap-2">
            <button
              type="button"
              className="rounded-full border border-rule px-2 hover:border-brass"
              onClick={() => transport.seek(mark.timeS)}
            >
              Go there
            </button>
            <button
              type="button"
              className="rounded-full border border-rule px-2 hover:border-brass"
              onClick={() => {
                editMark(editing, mark.id, { timeS: player.tapeS });
                editing.endGesture();
              }}
            >
              Move it to where the tape is
            </button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Ticks where two takes differ: those of the first from the top, those of the second from below. */
export function TakeTicks() {
  const ticks = useTakeTicks((state) => state.ticks);
  const { durationS } = useTransport();
  if (durationS === 0) return null;
  return ticks
    .filter((tick) => tick.in !== "both" && tick.tapeS <= durationS)
    .map((tick, i) => (
      <span
        // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes its order
        key={i}
        className={`pointer-events-none absolute h-1/2 border-l-2 ${tick.in === "first" ? "top-0 border-brass" : "bottom-0 border-paper"}`}
        style={{ left: `${(tick.tapeS / durationS) * 100}%` }}
      />
    ));
}

/** A tick at each time an answer has taken a cue, on the tape. */
export function AnswerTicks() {
  const player = usePlayer();
  const canvas = useCanvas(() => undefined);
  const drawn = useRef("");
  useFrame(() => {
    const { answering } = player.state.simulation;
    const history = answering?.history ?? [];
    const { durationS } = player.transport;
    const { width, height } = canvas.size.current;
    const key = `${history.length} ${durationS} ${width}`;
    if (key === drawn.current) return;
    const context = canvas.context();
    if (!context) return;
    drawn.current = key;
    context.clearRect(0, 0, width, height);
    if (durationS === 0) return;
    context.fillStyle = themeColour("brass");
    const units = player.state.units;
    for (const { timeS, strength } of history) {
      const x = ((units?.positionS("", timeS) ?? timeS) / durationS) * width;
      const tall = 4 + 6 * strength;
      context.beginPath();
      context.moveTo(x, height - tall);
      context.lineTo(x + 3, height);
      context.lineTo(x - 3, height);
      context.fill();
    }
  });
  return <canvas ref={canvas.ref} className="pointer-events-none absolute inset-0 h-full w-full" />;
}
