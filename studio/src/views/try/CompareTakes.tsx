import type { Scene } from "@bumbrel/core/document/scene";
import {
  type ComparedEvent,
  compareTakes,
  HEADS_A_SECOND,
  type TakeComparison,
} from "@bumbrel/core/document/take/compareTakes";
import { TAPE_UNIT } from "@bumbrel/core/document/take/units";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { useWholeScene } from "../../session/context";
import { fetchTake, type TakeAsset } from "../../session/edits/takes";
import { useTakeTicks } from "../../session/takeTicks";
import { formatTime } from "../../ui/format";

/** Differences that are listed at most. */
const MOST_LISTED = 40;
const [WIDTH, HEIGHT] = [320, 44];
/** Heads this far apart, m, reach the top of the strip. */
const FAR_M = 4;

/** Two takes against each other: where they differ on a strip of their time, on the tape, and as a list. */
export function CompareTakes({ first, second }: { first: TakeAsset; second: TakeAsset }) {
  const scene = useWholeScene();
  const { data, error } = useQuery({
    queryKey: ["takes", first.storedId, second.storedId],
    queryFn: () => Promise.all([fetchTake(first), fetchTake(second)]),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const compared = useMemo(() => data && compareTakes(...data), [data]);
  const show = useTakeTicks((state) => state.show);
  useEffect(() => {
    if (!data || !compared) return;
    const [a, b] = data;
    const onTape = ({ in: inTake, atS }: ComparedEvent) =>
      (inTake === "second" ? b : a).units.positionS(TAPE_UNIT, atS);
    show(compared.events.map((one) => ({ in: one.in, tapeS: onTape(one) })));
    return () => show([]);
  }, [data, compared, show]);
  if (error) return <p className="text-sm text-alarm">{error.message}</p>;
  if (!data || !compared) return <p className="text-sm text-mist">Comparing …</p>;
  const lengthS = Math.max(data[0].lengthS, data[1].lengthS, 0.1);
  const alone = compared.events.filter((one) => one.in !== "both");
  const nameOf = { first: first.name, second: second.name };
  return (
    <section
      aria-label="Takes compared"
      className="grid grid-cols-[minmax(0,1fr)] gap-1 rounded border border-rule p-2 text-sm"
    >
      <p>
        <b className="text-brass">{first.name}</b> against <b>{second.name}</b>:{" "}
        {compared.differS === undefined ? "they agree." : `the same until ${formatTime(compared.differS)}.`}
      </p>
      <Strip compared={compared} lengthS={lengthS} />
      <p className="text-xs text-mist">
        Ticks above are only in the first, below only in the second, in the middle in both. The line shows how
        far apart the heads are, up to {FAR_M} m.
      </p>
      <ul className="grid max-h-40 grid-cols-[minmax(0,1fr)] overflow-y-auto">
        {alone.slice(0, MOST_LISTED).map((one, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes its order
          <li key={i} className="flex gap-2 border-t border-rule py-0.5">
            <span className="figures text-mist">{formatTime(one.atS)}</span>
            <span className="min-w-0 grow truncate">{eventWords(one.event, scene)}</span>
            <span className="whitespace-nowrap text-xs text-mist">
              only in {nameOf[one.in as "first" | "second"]}
            </span>
          </li>
        ))}
      </ul>
      {alone.length > MOST_LISTED && (
        <p className="text-xs text-mist">and {alone.length - MOST_LISTED} more</p>
      )}
    </section>
  );
}

function Strip({ compared, lengthS }: { compared: TakeComparison; lengthS: number }) {
  const x = (atS: number) => (atS / lengthS) * WIDTH;
  const heads = compared.headsApartM
    .map((m, i) => `${x(i / HEADS_A_SECOND)},${HEIGHT - 1 - (Math.min(m, FAR_M) / FAR_M) * (HEIGHT - 2)}`)
    .join(" ");
  const ends = {
    first: [0, HEIGHT * 0.4],
    second: [HEIGHT * 0.6, HEIGHT],
    both: [HEIGHT * 0.4, HEIGHT * 0.6],
  };
  const colour = { first: "var(--brass)", second: "var(--paper)", both: "var(--mist)" };
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      preserveAspectRatio="none"
      className="h-11 w-full bg-sunk"
      role="img"
      aria-label="Differences over time"
    >
      <polyline
        points={heads}
        fill="none"
        stroke="var(--mist)"
        strokeWidth={1}
        vectorEffect="non-scaling-stroke"
      />
      {compared.events.map((one, i) => (
        <line
          // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes its order
          key={i}
          x1={x(one.atS)}
          x2={x(one.atS)}
          y1={ends[one.in][0]}
          y2={ends[one.in][1]}
          stroke={colour[one.in]}
          strokeWidth={2}
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}

/** An event in words, with the names of the scene. */
export function eventWords(
  event: ComparedEvent["event"],
  scene: Pick<Scene, "objects" | "sounds" | "groups" | "strands" | "answers">,
): string {
  const named = (list: readonly { id: string; name: string }[], id: string | null) =>
    list.find((one) => one.id === id)?.name;
  const thing = (id: string | null) => named(scene.objects, id) ?? "nothing";
  switch (event.kind) {
    case "tap":
      return `a tap on ${thing(event.objectId)}`;
    case "hold":
      return `a long press on ${thing(event.objectId)}`;
    case "over":
      return `the pointer comes over ${thing(event.objectId)}`;
    case "grab":
      return `${event.holds ? "takes hold of" : "lets go of"} ${thing(event.objectId)}`;
    case "key":
      return `the key ${event.key}`;
    case "cue":
      return `a cue of ${named(scene.strands, event.strandId) ?? "a strand that is gone"}`;
    case "trial":
      return `a trial of ${named(scene.answers, event.answerId) ?? "an answer that is gone"}`;
    case "unit": {
      const sound = named(scene.sounds, event.unitId) ?? named(scene.groups, event.unitId) ?? "the tape";
      return `${sound} ${event.running ? "starts" : "stops"}`;
    }
  }
}
