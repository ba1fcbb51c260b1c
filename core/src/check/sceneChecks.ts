import { drivingStrands } from "../analyse/needed";
import type { Scene, StageObject } from "../document/scene";
import { runningOf } from "../document/strands/running";
import { levelToDb } from "../dsp/level/decibel";
import type { Finding } from "../errors";
import type { ObjectPlan } from "../evaluate/plan";
import { propertyOf } from "../kinds/table";
import { newInstances } from "../simulate/placing";
import { SceneState } from "../simulate/sceneState";
import type { Sound } from "../sound/kinds";
import type { Advice } from "../strand/health";
import type { ShapingChange } from "../strand/shape/shaping";
import { checkReferences } from "./references";

/** Something noticed about a scene: what, where, and how to mend it. */
export interface SceneCheck extends Finding {
  /** The strand, object or sound that it is about. */
  about: { kind: "strand" | "object" | "sound" | "program"; id: string } | undefined;
  /** A change of the strand's shaping that mends it. */
  change: ShapingChange | undefined;
  /** A change of everything that is heard by so many dB that mends it. */
  gainDb?: number;
}

/** Shapes of pictures that a scene is looked at in: a screen, and a phone held upright. */
const ACROSS = 16 / 9;
const UPRIGHT = 9 / 16;
/** So much of something is in the picture: in one all but a little, in the other hardly any. */
const SEEN = 0.6;
const UNSEEN = 0.1;
/** Names that are told; more are counted. */
const FEW = 4;
/** Copies that are looked at: of more, every n-th. */
const MOST_COPIES = 200;

/** Everything noticed about a scene: references first, then strands, then objects. */
export function checkScene(scene: Scene, adviceOn?: AdviceOn): SceneCheck[] {
  return [...checkConnections(scene), ...checkStrands(scene, adviceOn), ...checkObjects(scene)];
}

/** The advice that a strand's own health gives, as far as it is known. */
type AdviceOn = (strandId: string) => readonly Advice[] | undefined;

/** References to nothing, with the thing that each is about. */
export function checkConnections(scene: Scene): SceneCheck[] {
  return checkReferences(scene).map((finding) => ({
    ...finding,
    about: aboutOf(scene, finding.where),
    change: undefined,
  }));
}

/** The strand, object or sound that a JSON Pointer into a scene points into. */
function aboutOf(scene: Scene, where: string): SceneCheck["about"] {
  const [, list, index] = /^\/(\w+)\/(\d+)/.exec(where) ?? [];
  const at = Number(index);
  if (list === "strands") return scene.strands[at] && { kind: "strand", id: scene.strands[at].id };
  if (list === "objects") return scene.objects[at] && { kind: "object", id: scene.objects[at].id };
  if (list === "sounds") return scene.sounds[at] && { kind: "sound", id: scene.sounds[at].id };
  if (list === "bindings") return scene.bindings[at] && { kind: "object", id: scene.bindings[at].objectId };
  return undefined;
}

/** Strands that move nothing, and what those that move something could do better. */
export function checkStrands(scene: Scene, adviceOn: AdviceOn = () => undefined): SceneCheck[] {
  const driving = new Set(drivingStrands(scene).map(({ id }) => id));
  return scene.strands.flatMap((strand, i): SceneCheck[] => {
    const { id, name, muted } = strand;
    const about = { kind: "strand", id } as const;
    const where = `/strands/${i}`;
    if (!driving.has(id)) {
      if (muted) return [];
      return [
        {
          code: "strand-unconnected",
          what: `The strand "${name}" moves nothing`,
          where,
          remedy: "Bind it to something, or remove it",
          about,
          change: undefined,
        },
      ];
    }
    return (adviceOn(id) ?? []).map(({ code, text, change }) => ({
      code: `strand-${code}`,
      what: `The strand "${name}": ${text.replace(/\.$/, "")}`,
      where,
      remedy: change ? "One press does it" : "Look at it in the Strands view",
      about,
      change,
    }));
  });
}

/** Things that are never seen, or, of scenes that are meant for phones, outside of an upright picture. It places everything once: keep its result for a scene. */
export function checkObjects(scene: Scene): SceneCheck[] {
  const state = new SceneState(scene);
  state.advanceTo(0);
  const check = (object: StageObject, code: string, what: string, remedy: string): SceneCheck => ({
    code,
    what,
    where: `/objects/${scene.objects.indexOf(object)}`,
    remedy,
    about: { kind: "object", id: object.id },
    change: undefined,
  });
  const hidden: SceneCheck[] = [];
  const outside: StageObject[] = [];
  for (const object of scene.objects) {
    const plan = state.plan.of(object.id);
    const property = plan && hiddenBy(scene, state, plan);
    if (property) {
      const words = property.toLowerCase();
      hidden.push(
        check(
          object,
          "never-visible",
          `"${object.name}" is never seen: its ${words} rests at 0, and nothing changes it`,
          `Raise its ${words}, bind a strand to it, or remove it`,
        ),
      );
    } else if (plan?.at.growth) {
      const [across, upright] = sharesSeen(state, plan, [ACROSS, UPRIGHT]);
      if (scene.budget === "phone" && across >= SEEN && upright <= UNSEEN) outside.push(object);
    }
  }
  if (outside.length === 0) return hidden;
  // Parts of one group are told of as one.
  const tops = new Map(outside.map((object) => [object.parentId ?? object.id, object]));
  const names = [...tops].map(
    ([id, object]) => scene.objects.find((one) => one.id === id)?.name ?? object.name,
  );
  const few = names.slice(0, FEW).map((name) => `"${name}"`);
  const more = names.length > FEW ? ` and ${names.length - FEW} more` : "";
  return [
    ...hidden,
    check(
      outside[0],
      "outside-upright",
      `Upright (9:16) the picture leaves out ${few.join(", ")}${more}`,
      "Move what matters towards the middle, or deliver it across",
    ),
  ];
}

/** The property that keeps something from ever being seen, by its label. */
function hiddenBy({ bindings, answers }: Scene, state: SceneState, plan: ObjectPlan): string | undefined {
  const { object } = plan;
  for (const key of ["visibility", "opacity", "scale", "copies"]) {
    if (!plan.at[key] || state.valueOf(object.id, key) > 0) continue;
    if (bindings.some(({ objectId, property }) => objectId === object.id && property === key)) continue;
    const isAnswered = answers.some(({ on, actions }) =>
      actions.some(
        (action) =>
          on &&
          Object.values(action)
            .flat()
            .some((value) => value === object.id),
      ),
    );
    if (!isAnswered) return propertyOf(object, key)?.label ?? key;
  }
  return undefined;
}

/** Shares of something's copies whose middle the scene's camera has in pictures of some shapes, as everything rests. */
function sharesSeen(state: SceneState, plan: ObjectPlan, aspects: readonly number[]): number[] {
  const instances = newInstances(state.placing.maxInstances(plan));
  const count = state.placing.writeInstances(plan, state.timeS, state.values, instances);
  const at = (property: string) => [0, 1, 2].map((axis) => state.valueOf("camera", property, axis));
  const [eye, target] = [at("position"), at("target")];
  const ahead = unit(target.map((one, axis) => one - eye[axis]));
  const right = unit(cross(ahead, [0, 1, 0]));
  const up = cross(right, ahead);
  const half = Math.tan((state.valueOf("camera", "fieldOfView") * Math.PI) / 360);
  const every = Math.max(1, Math.ceil(count / MOST_COPIES));
  const seen = aspects.map(() => 0);
  let looked = 0;
  for (let i = 0; i < count; i += every) {
    looked++;
    const away = [0, 1, 2].map((axis) => instances.matrices[i * 16 + 12 + axis] - eye[axis]);
    const depth = dot(away, ahead);
    if (depth <= 0) continue;
    const [x, y] = [Math.abs(dot(away, right)), Math.abs(dot(away, up))];
    aspects.forEach((aspect, k) => {
      // The field of view is that of the shorter side.
      const height = (depth * half) / Math.min(1, aspect);
      if (y < height && x < height * aspect) seen[k]++;
    });
  }
  return seen.map((one) => one / Math.max(1, looked));
}

const dot = (a: number[], b: number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: number[], b: number[]) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: number[]) => {
  const length = Math.hypot(...a) || 1;
  return a.map((one) => one / length);
};

/** Levels that mixes are brought to, LUFS: what players on the web, on phones and in broadcasts turn others to. */
export const LOUDNESS_TARGETS = { none: undefined, web: -14, phone: -16, broadcast: -23 } as const;
export type LoudnessTarget = keyof typeof LOUDNESS_TARGETS;
/** The highest true peak that survives encoding, dBTP (EBU R 128 s2, and what streaming services ask for). */
export const MOST_PEAK_DB = -1;
/** Further from its target than this, a mix stands out, LU. */
const LOUDNESS_TOLERANCE = 1;
/** Kept below the highest peak when a mix is lowered by one press, dB. */
const PEAK_RESERVE_DB = 0.1;

/** Measured levels of a mix. */
export interface MeasuredMix {
  /** Highest level between samples too, linear; full scale = 1. */
  truePeak: number;
  /** ITU-R BS.1770-5; −∞ for silence. */
  lufs: number;
}

/** A mix whose peaks would clip, or that is louder or softer than what is heard beside it. */
export function checkMix({ truePeak, lufs }: MeasuredMix, target: LoudnessTarget): SceneCheck[] {
  const checks: SceneCheck[] = [];
  const peakDb = levelToDb(truePeak);
  const wantedLufs = LOUDNESS_TARGETS[target];
  const offLu = wantedLufs === undefined ? 0 : lufs - wantedLufs;
  const add = (code: string, what: string, remedy: string, gainDb?: number) =>
    checks.push({ code, what, where: "the mix", remedy, about: undefined, change: undefined, gainDb });
  const words = (db: number) => Math.abs(db).toFixed(1).replace(".0", "");
  const figure = (db: number, digits = 1) => db.toFixed(digits).replace("-", "−");
  if (peakDb > MOST_PEAK_DB) {
    const gainDb = MOST_PEAK_DB - PEAK_RESERVE_DB - peakDb;
    add(
      "mix-peak",
      `The mix peaks at ${figure(peakDb)} dBTP, above ${figure(MOST_PEAK_DB, 0)}: it may clip once it is encoded`,
      `Lower what is heard by ${words(gainDb)} dB; one press does it`,
      gainDb,
    );
  }
  if (Number.isFinite(lufs) && Math.abs(offLu) > LOUDNESS_TOLERANCE) {
    const room = MOST_PEAK_DB - PEAK_RESERVE_DB - peakDb;
    const gainDb = Math.min(-offLu, room);
    const isReached = gainDb === -offLu;
    add(
      "mix-loudness",
      `The mix is at ${figure(lufs)} LUFS, ${words(offLu)} LU ${offLu > 0 ? "above" : "below"} ${figure(wantedLufs!, 0)}`,
      isReached
        ? `${gainDb > 0 ? "Raise" : "Lower"} what is heard by ${words(gainDb)} dB; one press does it`
        : "Its peaks leave no room to raise it so far: compress the sounds before they are brought in",
      isReached ? gainDb : undefined,
    );
  }
  return checks;
}

/** A sound that has ended for so long before the tape does is noticed, s, unless it is short beside the tape. */
const EARLY_S = 0.5;
const SHORT_SHARE = 0.5;
/** Sounds that are larger make pages slow to open, bytes. */
const LARGE_BYTES = 25e6;

/**
 * Sounds that end before the tape does, and files that are large.
 *
 * @param factsOf  length and bytes of a sound, as far as they are known
 */
export function checkSounds(
  scene: Scene,
  factsOf: (sound: Sound) => { durationS?: number; bytes?: number } | undefined,
): SceneCheck[] {
  const checks: SceneCheck[] = [];
  const onTape = scene.sounds.filter(
    (sound) => sound.heard && runningOf(scene, sound).runs === "tape" && !runningOf(scene, sound).loops,
  );
  const lengthOf = (sound: Sound) => factsOf(sound)?.durationS ?? 0;
  const tapeS = onTape.reduce((longest, sound) => Math.max(longest, lengthOf(sound)), 0);
  for (const sound of scene.sounds) {
    const { id, name } = sound;
    const facts = factsOf(sound);
    const about = { kind: "sound" as const, id };
    const add = (code: string, what: string, remedy: string) =>
      checks.push({ code, what, where: name, remedy, about, change: undefined });
    const endsEarly =
      facts?.durationS !== undefined &&
      facts.durationS > SHORT_SHARE * tapeS &&
      tapeS - facts.durationS > EARLY_S;
    if (onTape.includes(sound) && endsEarly)
      add(
        "sound-ends-early",
        `“${name}” ends ${(tapeS - facts.durationS!).toFixed(1)} s before the tape does: picture goes on without it`,
        "Loop it, cut the others, or leave it as it is meant",
      );
    if (facts?.bytes !== undefined && facts.bytes > LARGE_BYTES)
      add(
        "sound-large",
        `“${name}” has ${Math.round(facts.bytes / 1e6)} MB: a page that carries it is slow to open`,
        "Bring it in as FLAC, Opus or AAC, which take a half to a tenth of it",
      );
  }
  return checks;
}
