import { BUDGET_LIMITS, weigh } from "@bumbrel/core/check/weight";
import { BUDGETS, QUALITIES, QUALITY_STEPS } from "@bumbrel/core/document/scene";
import type { Stage } from "@bumbrel/player/stage/stage";
import { TriangleAlert } from "lucide-react";
import { Popover } from "radix-ui";
import { useEffect, useState } from "react";
import { useEditing, usePlayer, useScene } from "../../session/context";

const EVERY_MS = 1000;

/** Thousands apart, as a person reads them. */
const inWords = (count: number) =>
  count >= 1e6
    ? `${(count / 1e6).toFixed(1)} M`
    : count >= 10_000
      ? `${Math.round(count / 1000)} k`
      : String(count);

/** Cost of the stage against its budget, and the quality it is drawn at. */
export function WeightLine({ stage }: { stage: Stage | undefined }) {
  const editing = useEditing();
  const player = usePlayer();
  const { budget, quality } = useScene((scene) => ({ budget: scene.budget, quality: scene.quality }));
  const [now, setNow] = useState<
    ReturnType<Stage["weight"]> & { scriptMs: number | undefined; limited: number | undefined }
  >();
  useEffect(() => {
    if (!stage) return;
    const look = () =>
      setNow({
        ...stage.weight(),
        scriptMs: player.scriptCostMs,
        limited: stage.limiterStrength,
      });
    const timer = setInterval(look, EVERY_MS);
    look();
    return () => clearInterval(timer);
  }, [stage, player]);
  // Judged by what lasts: until that is known, nothing is said of the script.
  const findings = now ? weigh({ ...now, scriptMs: now.scriptMs ?? 0 }, budget) : [];
  const limits = BUDGET_LIMITS[budget];
  const figure = (count: number, one: string, many: string) =>
    `${inWords(count)} ${count === 1 ? one : many}`;
  return (
    <div className="flex h-8 items-center gap-x-2.5 overflow-hidden px-3 text-xs whitespace-nowrap text-mist">
      {now && (
        <span
          className="figures min-w-0 truncate"
          title={`Script takes ${now.scriptMs?.toFixed(1) ?? "…"} ms a frame, on the median of two seconds. A ${budget} has room for ${limits.scriptMs} ms and ${inWords(limits.triangles)} triangles.`}
        >
          {figure(now.objects, "object", "objects")} · {figure(now.copies, "copy", "copies")} ·{" "}
          {figure(now.particles, "particle", "particles")} · {figure(now.triangles, "triangle", "triangles")}{" "}
          · {figure(now.drawCalls, "call", "calls")} · {now.scriptMs?.toFixed(1) ?? "…"} ms
        </span>
      )}
      <span className="grow" />
      {now?.limited !== undefined && (
        <span
          className="figures"
          title="Share of the picture that the limiter of flashes holds back. Deliver switches it on and off."
        >
          limited {Math.round(100 * now.limited)} %
        </span>
      )}
      {findings.length > 0 && (
        <Popover.Root>
          <Popover.Trigger className="inline-flex items-center gap-1 text-alarm underline">
            <TriangleAlert size={13} aria-hidden />
            too heavy
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content side="top" className="floating z-30 grid max-w-96 gap-2 p-3 text-sm">
              {findings.map(({ code, what, remedy }) => (
                <p key={code}>
                  {what}. <span className="text-mist">{remedy}.</span>
                </p>
              ))}
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      )}
      <Choice
        label="Budget"
        value={budget}
        options={BUDGETS}
        onChange={(chosen) =>
          editing.edit("choose a budget", (scene) => {
            scene.budget = chosen;
          })
        }
      />
      <Choice
        label="Quality"
        title="What is drawn: shadows, reflections, blur and the like. The numbers stay the same at each; auto goes down while frames take too long."
        value={quality}
        options={QUALITIES}
        words={(one) => (one === "auto" ? `auto: ${stage?.quality ?? "…"}` : QUALITY_STEPS[one])}
        onChange={(chosen) =>
          editing.edit("choose a quality", (scene) => {
            scene.quality = chosen;
          })
        }
      />
    </div>
  );
}

function Choice<T extends string>({
  label,
  title,
  value,
  options,
  words = (one) => one,
  onChange,
}: {
  label: string;
  title?: string;
  value: T;
  options: readonly T[];
  words?(option: T): string;
  onChange(value: T): void;
}) {
  return (
    <label className="inline-flex items-center gap-1" title={title}>
      {label}
      <select
        className="rounded border border-rule bg-sunk text-paper"
        value={value}
        onChange={(event) => onChange(event.target.value as T)}
      >
        {options.map((one) => (
          <option key={one} value={one}>
            {words(one)}
          </option>
        ))}
      </select>
    </label>
  );
}
