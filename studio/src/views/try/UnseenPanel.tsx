import { UNSEEN_PARTS, type UnseenPart } from "@bumbrel/player/visit/unseenParts";
import { usePlayer, useScene } from "../../session/context";
import { Toggle } from "../../ui/fields/Toggle";
import { LiveText } from "../../ui/live/LiveText";

/** Switches for what cannot be seen in the scene, and who is in each zone. */
export function UnseenPanel({
  shown,
  onChange,
}: {
  shown: ReadonlySet<UnseenPart>;
  onChange(shown: ReadonlySet<UnseenPart>): void;
}) {
  const player = usePlayer();
  const objects = useScene((scene) => scene.objects);
  const zones = objects.filter(({ kind }) => kind === "zone");
  const nameOf = (key: string) =>
    WORDS[key] ?? objects.find(({ id }) => id === key)?.name ?? "something that is gone";
  const whoIsIn = (zoneId: string) => {
    const keys = player.state.simulation.answering?.insideOf(zoneId) ?? [];
    return keys.length === 0 ? "nobody" : [...new Set(keys.map(nameOf))].join(", ");
  };
  return (
    <section aria-label="Unseen parts" className="grid gap-1 text-sm text-mist">
      <div className="flex flex-wrap items-center gap-1.5">
        Also show
        {(Object.keys(UNSEEN_PARTS) as UnseenPart[]).map((part) => (
          <Toggle
            key={part}
            label={`Show ${UNSEEN_PARTS[part].label}`}
            title={UNSEEN_PARTS[part].help}
            on={shown.has(part)}
            onChange={(on) => {
              const next = new Set(shown);
              if (on) next.add(part);
              else next.delete(part);
              onChange(next);
            }}
          >
            {UNSEEN_PARTS[part].label}
          </Toggle>
        ))}
      </div>
      {zones.length > 0 && (
        <ul className="grid" aria-label="Who is in which zone">
          {zones.map(({ id, name }) => (
            <li key={id} className="flex min-w-0 gap-2 border-t border-rule py-0.5">
              <span className="min-w-0 grow truncate text-paper">{name}</span>
              <LiveText className="truncate" text={() => whoIsIn(id)} />
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

const WORDS: Record<string, string> = { visitor: "the visitor", left: "left hand", right: "right hand" };
