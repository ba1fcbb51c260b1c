import type { Asset, Scene, StageObject, Strand } from "../document/scene";
import { inMakingOrder } from "../document/strands/strands";
import { LENS_NEUTRAL } from "../kinds/always";
import { withSingletons } from "../kinds/create";
import { isLayer, programKindOf } from "../kinds/programKinds";
import { linkedIn } from "../kinds/programs";
import { hasBodies, propertyOf, settingOf } from "../kinds/table";
import type { NumberProperty, VectorProperty } from "../setting/property";
import { needsAnswering } from "../simulate/bodies/laterParts";
import { isLive, isMade, type Sound } from "../sound/kinds";
import { laterPartsOf } from "../strand/measures/later/later";
import { resolveListening } from "./listening";

/**
 * The strands that some binding, program or answer follows, and those they are made of: the only ones a delivered scene has to compute.
 * Each comes after what it is made of; a muted one drives nothing.
 */
export function drivingStrands(scene: Scene): Strand[] {
  const { strand, fan } = linkedIn(scene);
  const answered = scene.answers.flatMap(({ on, cue, only }) =>
    on ? [cue.kind === "strand" ? cue.strandId : null, only.whileAboveId] : [],
  );
  const bound = new Set([...scene.bindings.map(({ strandId }) => strandId), ...strand, ...fan, ...answered]);
  return inMakingOrder(
    scene,
    scene.strands.filter(({ id, muted }) => bound.has(id) && !muted),
  );
}

/** The images and models that some object shows. */
export function neededAssets(scene: Scene): Asset[] {
  const shown = new Set<unknown>(scene.objects.flatMap(({ settings }) => Object.values(settings)));
  for (const id of linkedIn(scene).picture) shown.add(id);
  if (scene.takeUse === "demo") shown.add(scene.takeId);
  return scene.assets.filter(({ id }) => shown.has(id));
}

/**
 * The sounds a delivered scene needs: those that are heard, those its driving strands listen to, and those whose
 * waveform something on the stage follows.
 */
export function neededSounds(scene: Scene): Sound[] {
  const listenedTo = new Set<string>(linkedIn(scene).sound);
  for (const { listensTo } of drivingStrands(scene)) {
    if (listensTo.kind === "sound") listenedTo.add(listensTo.id);
    for (const { soundId } of resolveListening(scene, listensTo)?.sounds ?? []) listenedTo.add(soundId);
  }
  for (const { settings } of scene.objects) {
    if (typeof settings.soundId === "string") listenedTo.add(settings.soundId);
  }
  return scene.sounds.filter(({ id, heard }) => heard || listenedTo.has(id));
}

/** True if programs compute any of the strands. */
export const hasNumberPrograms = (strands: readonly Strand[]): boolean =>
  strands.some(({ measure }) => measure.kind === "program" && measure.programId !== null);

/** True if scripts draw anything: they need a thread of their own. */
export const hasDrawings = ({ objects }: Scene): boolean =>
  objects.some(
    ({ kind, settings }) => typeof settings.programId === "string" && programKindOf(kind) === "drawing",
  );

/** Parts of the player that only some scenes use; a delivered page carries those of its scene. */
export const PLAYER_PARTS = {
  effects: "bloom, feedback, grading and the like",
  occlusion: "ambient occlusion",
  models: "glTF models",
  words: "letters as bodies",
  panorama: "panoramas as light",
  lut: "LUTs",
  programs: "programs",
  visits: "what visitors do",
  answers: "what happens on a cue",
  bodies: "rigid bodies",
  camera: "the camera’s picture",
  person: "the person cut out of it",
  headset: "headsets",
  inputs: "inputs and keyboards",
  limiter: "the limiter of flashes",
  film: "making films, only where one is made",
} as const;
export type PlayerPart = keyof typeof PLAYER_PARTS;

/** True when a scene has captions to show. */
export const hasCaptions = ({ sounds }: Pick<Scene, "sounds">): boolean =>
  sounds.some(({ caption, heard }) => caption && heard);

/** True when a visitor can do something in a scene. Such a scene is started by a gesture and counts its time from there. */
export const isVisited = ({ answers, strands, objects, meeting }: Scene): boolean =>
  answers.some(({ on }) => on) ||
  strands.some(({ listensTo }) => listensTo.kind === "zone") ||
  objects.some(({ settings }) => settings.solid === "moving") ||
  meeting.look !== "camera" ||
  meeting.camera !== "none" ||
  meeting.headset ||
  meeting.room;

/** True when something is drawn behind the person in a camera’s picture: the person has to be found in it. */
const standsBehindPerson = (scene: Scene): boolean =>
  withSingletons(scene.objects).some((object) =>
    ["behind", "background"].includes(settingOf(object, "onCamera") as string),
  );

/** The parts of the player that a scene uses, now or by what its strands may do. */
export function neededParts(scene: Scene): PlayerPart[] {
  const objects = withSingletons(scene.objects);
  const lens = objects.find(({ kind }) => kind === "lens")!;
  const isBound = (key: string) =>
    scene.bindings.some(({ objectId, property }) => objectId === lens.id && property === key);
  const isOn = (key: string, off: number) => {
    const declared = propertyOf(lens, key) as NumberProperty | VectorProperty;
    const rest = [lens.rest[key] ?? declared.default].flat();
    return isBound(key) || rest.some((one) => one !== off);
  };
  const hasPasses = scene.quality !== "plain" && scene.quality !== "headset";
  const hasOcclusion = hasPasses && scene.quality !== "phone" && isOn("occlusion", 0);
  const hasEffects =
    hasPasses &&
    (hasOcclusion ||
      settingOf(lens, "hasLut") === true ||
      objects.some(({ kind }) => kind === "particles") ||
      Object.entries(LENS_NEUTRAL).some(([key, off]) => isOn(key, off)));
  const hasDifference = objects.some((object) => settingOf(object, "blend") === "difference");
  const programmed = objects.filter(({ settings }) => typeof settings.programId === "string");
  const has = (kind: StageObject["kind"]) => objects.some((object) => object.kind === kind);
  const uses: Record<PlayerPart, boolean> = {
    effects: hasEffects || hasDifference || programmed.some(isLayer),
    occlusion: hasOcclusion,
    models: has("model"),
    words: has("text"),
    panorama: objects.some((object) => settingOf(object, "scenery") === "panorama"),
    programs: programmed.length > 0,
    lut: hasPasses && settingOf(lens, "hasLut") === true,
    visits: isVisited(scene),
    answers: needsAnswering(scene),
    bodies: hasBodies(scene),
    camera: scene.meeting.camera !== "none",
    person: scene.meeting.camera !== "none" && standsBehindPerson(scene),
    headset: scene.meeting.headset || scene.meeting.room,
    inputs: scene.sounds.some(isLive),
    limiter: scene.limitsFlashes,
    film: false,
  };
  return (Object.keys(PLAYER_PARTS) as PlayerPart[]).filter((part) => uses[part]);
}

/** Parts of what reads sounds and computes strands that only some scenes use. */
export const READER_PARTS = {
  made: "tones, noises and clocks",
  files: "sound files",
  encoded: "the decoder of encoded sounds",
  notes: "note files",
  tables: "tables of numbers",
  scripts: "numbers by programs",
  pitch: "pitches",
  beats: "beats that are heard",
  parts: "percussive and harmonic parts",
  weighted: "A-weighted levels and loudness",
  hits: "hits that were learnt",
} as const;
export type ReaderPart = keyof typeof READER_PARTS;

/**
 * The parts of what reads sounds that a scene uses.
 *
 * @param hasEncoded  whether any of its sounds is kept encoded
 */
export function neededReaders(scene: Scene, hasEncoded: boolean): ReaderPart[] {
  const has = (kind: Sound["kind"]) => scene.sounds.some((sound) => sound.kind === kind);
  const driving = drivingStrands(scene);
  const later: readonly ReaderPart[] = laterPartsOf(driving);
  const uses: Partial<Record<ReaderPart, boolean>> = {
    made: scene.sounds.some(isMade),
    files: has("file"),
    encoded: hasEncoded,
    notes: has("notes"),
    tables: has("table"),
    scripts: hasNumberPrograms(driving),
  };
  return (Object.keys(READER_PARTS) as ReaderPart[]).filter((part) => uses[part] ?? later.includes(part));
}

/** Names of the library’s files with which the person is found in a camera’s picture. */
export const FINDER_FILES = [
  "selfie_segmentation.binarypb",
  "selfie_segmentation.tflite",
  "selfie_segmentation_solution_simd_wasm_bin.js",
  "selfie_segmentation_solution_simd_wasm_bin.wasm",
] as const;
