import isEqual from "fast-deep-equal";
import { HoverCard } from "radix-ui";
import type { ReactNode } from "react";
import { useNumbers, usePlayer, useScene } from "../../../session/context";
import type { StrandFace } from "../../../session/strandHooks";
import { LiveText } from "../../../ui/live/LiveText";
import { StrandMark } from "../../../ui/StrandMark";
import { drivenBy, measureText, rawText, sourceText } from "../strandText";

const MOST_SHOWN = 6;

/** A number that explains itself: hovered or focused, it shows the way from the sound to what it drives. */
export function ChainHint({ strand, children }: { strand: StrandFace; children: ReactNode }) {
  const numbers = useNumbers();
  const player = usePlayer();
  const driven = useScene((scene) => drivenBy(scene, strand.id), isEqual);
  const source = useScene((scene) => sourceText(scene, strand));
  const value = (objectId: string, property: string) => player.valueOf(objectId, property).toFixed(2);
  return (
    <HoverCard.Root openDelay={250} closeDelay={80}>
      <HoverCard.Trigger asChild>
        <button type="button" className="rounded px-1 hover:bg-raised">
          {children}
        </button>
      </HoverCard.Trigger>
      <HoverCard.Portal>
        <HoverCard.Content side="top" sideOffset={6} className="z-40 grid w-80 gap-1 floating p-3 text-sm">
          <p className="flex items-center gap-1.5 font-semibold">
            <StrandMark strand={strand} /> {strand.name}
          </p>
          <p className="text-mist">
            {measureText(strand)} of {source}
          </p>
          <p className="text-mist">
            reads <LiveText className="text-paper" text={(timeS) => rawText(numbers, strand, timeS)} />,
            shaped to{" "}
            <LiveText
              className="text-brass"
              text={(timeS) => numbers.shapedNow(strand.id, timeS).toFixed(3)}
            />
          </p>
          {driven.length === 0 && <p className="text-mist">drives nothing yet</p>}
          {driven.slice(0, MOST_SHOWN).map(({ id, objectId, property, text }) => (
            <p key={id} className="flex justify-between gap-3">
              <span className="truncate">→ {text}</span>
              <LiveText className="text-paper" text={() => value(objectId, property)} />
            </p>
          ))}
          {driven.length > MOST_SHOWN && <p className="text-mist">and {driven.length - MOST_SHOWN} more</p>}
        </HoverCard.Content>
      </HoverCard.Portal>
    </HoverCard.Root>
  );
}
