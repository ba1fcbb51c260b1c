import { type FlashReading, MOST_FLASHES } from "@bumbrel/core/check/flash";
import { levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { CircleCheck, Eye, TriangleAlert, X } from "lucide-react";
import { useMemo } from "react";
import { useEditing, usePlayer, useScene, useSession } from "../../session/context";
import { useUi } from "../../session/viewState";
import { BarChart } from "../../ui/BarChart";
import { Button } from "../../ui/Button";
import { formatTime } from "../../ui/format";
import { ShareBar } from "../../ui/ShareBar";
import { lookThroughScene, stopLooking, useLookedThrough } from "./lookingThrough";

/** Bars of the chart over the tape. */
const MOST_BARS = 96;

/** Looks through the whole tape, and shows where it flashes. */
export function LookThrough() {
  const editing = useEditing();
  const player = usePlayer();
  const session = useSession();
  const { projectId, share, result, failure } = useLookedThrough();
  const { limitsFlashes, flashing } = useScene((scene) => ({
    limitsFlashes: scene.limitsFlashes,
    flashing: scene.flashing,
  }));
  const isOwn = projectId === session.projectId;
  const isLooking = isOwn && share !== undefined;
  return (
    <section aria-label="Flashing light" className="grid gap-3">
      <div className="flex flex-wrap items-baseline gap-3">
        <h2 className="grow text-2xl font-semibold">Flashing light</h2>
        {isLooking ? (
          <Button onClick={stopLooking}>
            <X size={14} aria-hidden /> Stop looking
          </Button>
        ) : (
          <Button onClick={() => void lookThroughScene(session)}>
            <Eye size={16} aria-hidden /> Look through the whole tape
          </Button>
        )}
      </div>
      {isLooking && (
        <div className="grid gap-1">
          <ShareBar label="Share of the tape that has been looked through" share={share} />
          <p role="status" className="text-sm text-mist">
            Every frame is drawn and every sample mixed once, {Math.round(share * 100)} %
          </p>
        </div>
      )}
      {isOwn && failure && (
        <p role="alert" className="text-alarm">
          {failure}
        </p>
      )}
      {flashing === null ? (
        <p className="text-mist">
          Not looked at yet. Flashes are measured on the drawn picture by WCAG 2.3.1: no more than{" "}
          {MOST_FLASHES} a second over a quarter of the field of view, and none of saturated red.
        </p>
      ) : flashing.stretches.length === 0 ? (
        <p className="flex items-center gap-2 text-mist">
          <CircleCheck size={18} aria-hidden className="text-brass" />
          At most {flashing.most} {flashing.most === 1 ? "flash" : "flashes"} a second: within WCAG 2.3.1.
        </p>
      ) : (
        <ul className="grid gap-1">
          {flashing.stretches.map(({ fromS, toS, flashes, isRed }) => (
            <li key={fromS} className="flex items-center gap-3">
              <TriangleAlert size={18} aria-hidden className="shrink-0 text-alarm" />
              <span className="grow">
                From {formatTime(fromS)} to {formatTime(toS)}: up to {flashes}{" "}
                {isRed ? "red flashes" : "flashes"} a second, where {MOST_FLASHES} are allowed.
              </span>
              <Button className="text-sm" onClick={() => player.transport.seek(fromS)}>
                Go to {formatTime(fromS)}
              </Button>
            </li>
          ))}
        </ul>
      )}
      {isOwn && result && (
        <>
          <Timeline readings={result.flashes} />
          <p className="figures text-sm text-mist">
            Mix: {result.lufs === Number.NEGATIVE_INFINITY ? "silent" : `${result.lufs.toFixed(1)} LUFS`},
            true peak {levelToDb(result.truePeak).toFixed(1)} dBTP. At most {result.weight.triangles}{" "}
            triangles, {result.weight.drawCalls} calls, {result.weight.copies} copies.
          </p>
        </>
      )}
      <label className="flex items-start gap-2">
        <input
          type="checkbox"
          className="mt-1 size-4 accent-[var(--brass)]"
          checked={limitsFlashes}
          onChange={({ target }) =>
            editing.edit(target.checked ? "limit flashes" : "limit no flashes", (scene) => {
              scene.limitsFlashes = target.checked;
            })
          }
        />
        <span>
          Limit flashes
          <span className="block text-sm text-mist">
            Bounds how the picture changes, so that any scene stays within the limit: here, in films and
            delivered, but not in headsets. What flashes less stays as it is.
          </span>
        </span>
      </label>
      {flashing !== null && flashing.stretches.length > 0 && !limitsFlashes && (
        <p className="text-sm text-mist">Whoever opens the delivered scene is warned before it starts.</p>
      )}
    </section>
  );
}

/** Flashes a second over the tape; a click goes there. */
function Timeline({ readings }: { readings: readonly FlashReading[] }) {
  const player = usePlayer();
  const theme = useUi((state) => state.theme);
  const bars = useMemo(() => {
    const count = Math.min(MOST_BARS, readings.length);
    return Array.from({ length: count }, (_none, i) => {
      const own = readings.slice(
        Math.floor((i * readings.length) / count),
        Math.floor(((i + 1) * readings.length) / count),
      );
      const value = own.reduce((most, { general, red }) => Math.max(most, general, red), 0);
      return {
        label: formatTime(own[0]?.timeS ?? 0),
        timeS: own[0]?.timeS ?? 0,
        value,
        look: value > MOST_FLASHES ? ("strong" as const) : ("plain" as const),
      };
    });
  }, [readings]);
  const most = bars.reduce((sum, { value }) => Math.max(sum, value), 0);
  return (
    <BarChart
      label={`Flashes a second over the tape, ${most} at most; ${MOST_FLASHES} are allowed`}
      className="h-28"
      min={0}
      max={2 * Math.ceil(Math.max(6, most + 1) / 2)}
      limit={{ at: MOST_FLASHES, text: `${MOST_FLASHES} flashes a second are allowed` }}
      {...{ bars, theme }}
      valueText={(value) => `${value} ${value === 1 ? "flash" : "flashes"} a second`}
      onChoose={(index) => player.transport.seek(bars[index].timeS)}
    />
  );
}
