import type { Scene, Strand } from "../document/scene";
import { runsWithTape, soundsOfLoop } from "../document/strands/running";
import {
  happensLive,
  inMakingOrder,
  isMadeOf,
  readsZone,
  sourcesOf,
  tuningOf,
} from "../document/strands/strands";
import { isLive } from "../sound/kinds";
import { resolveListening } from "./listening";
import { drivingStrands } from "./needed";
import { NUMBERS_FORMAT, NUMBERS_VERSION, type NumbersPlan, type PlannedStrand } from "./planned";

/**
 * All that the numbers of a scene depend on, resolved: which sounds each strand hears and how loud, what it measures and
 * how that is shaped. {@link analysePlan} computes them from it and from the sounds' samples, without the document.
 *
 * @param strands  those that are wanted; without it those that drive something
 */
export function planNumbers(scene: Scene, strands: readonly Strand[] = drivingStrands(scene)): NumbersPlan {
  const planned: PlannedStrand[] = [];
  const left: NumbersPlan["left"] = [];
  const leave = ({ id, name }: Strand, why: string) => left.push({ id, name, why });
  for (const strand of strands)
    if (isMadeOf(scene, strand, strand.id)) leave(strand, "It is made of itself.");
  for (const strand of inMakingOrder(scene, strands)) {
    const from = readsZone(scene, strand) ? undefined : sourceOf(scene, strand);
    if (!from) {
      leave(strand, readsZone(scene, strand) ? "It reads a zone." : "What it listens to is gone.");
      continue;
    }
    const { id, name } = strand;
    const { measure, shaping, cues, code, part } = tuningOf(scene, strand);
    planned.push({
      id,
      name,
      from,
      loopsWith: loopSounds(scene, strand),
      isLive: happensLive(scene, strand),
      measure,
      shaping,
      ...(cues && { cues }),
      ...(code !== undefined && { code }),
      ...(part && { part }),
    });
  }
  return {
    format: NUMBERS_FORMAT,
    version: NUMBERS_VERSION,
    name: scene.name,
    sounds: soundsOf(scene, planned),
    strands: planned,
    left,
  };
}

function sourceOf(scene: Scene, strand: Strand): PlannedStrand["from"] | undefined {
  const { listensTo } = strand;
  if (listensTo.kind === "strands") {
    const ids = sourcesOf(scene, strand).map(({ id }) => id);
    return ids.length > 0 ? { kind: "strands", ids } : undefined;
  }
  if (listensTo.kind === "sound") {
    const sound = scene.sounds.find(({ id }) => id === listensTo.id);
    if (sound && isLive(sound)) return { kind: "live", soundId: sound.id };
  }
  const listening = resolveListening(scene, listensTo);
  return listening && { kind: "sounds", listening };
}

/** Sounds of which the longest tells after how long the numbers repeat. */
function loopSounds(scene: Scene, { listensTo }: Strand): string[] {
  if (listensTo.kind !== "sound") return [];
  const sound = scene.sounds.find(({ id }) => id === listensTo.id);
  return sound ? soundsOfLoop(scene, sound).map(({ id }) => id) : [];
}

/** The sounds that strands hear, and where the length of the tape matters all that run with it. */
function soundsOf(scene: Scene, strands: readonly PlannedStrand[]): NumbersPlan["sounds"] {
  const wanted = new Set<string>();
  let needsTape = false;
  for (const { from, loopsWith } of strands) {
    for (const id of loopsWith) wanted.add(id);
    if (from.kind === "live") wanted.add(from.soundId);
    if (from.kind === "sounds") for (const { soundId } of from.listening.sounds) wanted.add(soundId);
    needsTape ||= from.kind === "strands" || (from.kind === "sounds" && from.listening.kind === "bus");
  }
  return scene.sounds
    .filter((sound) => wanted.has(sound.id) || (needsTape && runsWithTape(scene, sound)))
    .map((sound) => ({
      id: sound.id,
      name: sound.name,
      onTape: runsWithTape(scene, sound),
      ...(sound.kind === "clock"
        ? {
            kind: "clock" as const,
            bpm: sound.bpm,
            beatsPerBar: sound.beatsPerBar,
            subdivision: sound.subdivision,
            swing: sound.swing,
            anchor: sound.anchor,
            curve: sound.curve,
          }
        : { kind: sound.kind }),
    }));
}
