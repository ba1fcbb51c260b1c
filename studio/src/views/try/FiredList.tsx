import { CUE_SOURCES } from "@bumbrel/core/action/cueSources";
import { useRef } from "react";
import { usePlayer, useScene } from "../../session/context";
import { useFrame } from "../../ui/live/frames";

const LIT_S = 0.4;

/** The scene's answers with a light and a count each: what has been answered during this try. */
export function FiredList() {
  const player = usePlayer();
  const answers = useScene((scene) => scene.answers);
  const list = useRef<HTMLUListElement>(null);
  const shown = useRef("");
  useFrame((timeS) => {
    const history = player.state.simulation.answering?.history ?? [];
    const counts = new Map<string, { count: number; lastS: number }>();
    for (const fired of history) {
      const known = counts.get(fired.answerId);
      counts.set(fired.answerId, { count: (known?.count ?? 0) + 1, lastS: fired.timeS });
    }
    const lit = ({ lastS }: { lastS: number }) => timeS >= lastS && timeS - lastS < LIT_S;
    const key = JSON.stringify([...counts].map(([id, one]) => [id, one.count, lit(one)]));
    if (key === shown.current) return;
    shown.current = key;
    for (const row of list.current?.children ?? []) {
      const one = counts.get((row as HTMLElement).dataset.answer ?? "");
      (row as HTMLElement).dataset.lit = String(one !== undefined && lit(one));
      row.lastElementChild!.textContent = one ? `${one.count} ×` : "";
    }
  });
  return (
    <section aria-label="Answers" className="grid gap-1">
      <h2 className="font-semibold">Answers</h2>
      <ul ref={list} className="grid">
        {answers.map(({ id, name, cue, on }) => (
          <li
            key={id}
            data-answer={id}
            className={`group flex items-center gap-2 border-t border-rule py-1 text-sm ${on ? "" : "opacity-50"}`}
          >
            <span
              aria-hidden
              className="size-2.5 shrink-0 rounded-full border border-mist group-data-[lit=true]:border-brass group-data-[lit=true]:bg-brass"
            />
            <span className="min-w-0 grow truncate">{name}</span>
            <span className="whitespace-nowrap text-xs text-mist">
              {CUE_SOURCES[cue.kind].label.toLowerCase()}
            </span>
            <span className="figures w-10 text-right text-mist" />
          </li>
        ))}
      </ul>
    </section>
  );
}
