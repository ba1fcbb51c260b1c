import { defaultCues } from "../strand/cue";
import { MEASURES, type Measure } from "../strand/measures";
import { defaultShaping } from "../strand/shaping";
import {
  AXES,
  type Binding,
  HUE_COUNT,
  type ListensTo,
  SCENE_FORMAT,
  SCENE_VERSION,
  type Scene,
  STRAND_SHAPES,
  type StageObject,
  type Strand,
} from "./document";
import { OBJECT_KINDS, type ObjectKind, propertiesOf, SINGLETON_KINDS } from "./objectKinds";
import type { Property } from "./properties";

/** A scene with nothing in it but what always exists. */
export function newScene(name: string): Scene {
  return {
    format: SCENE_FORMAT,
    version: SCENE_VERSION,
    name,
    loop: false,
    stretch: null,
    sounds: [],
    buses: [],
    groups: [],
    strands: [],
    objects: SINGLETON_KINDS.map((kind) => newObject(kind, kind, OBJECT_KINDS[kind].label)),
    assets: [],
    budget: "desktop",
    quality: "full",
    bindings: [],
    keeps: [],
  };
}

/** What a project begins with: nothing but what always exists, and light to see things by. */
export function newProject(name: string): Scene {
  const scene = newScene(name);
  scene.objects.push(
    { ...newObject("above", "sunLight", "Light from above"), rest: { colour: "#f4ecdc", intensity: 2.2 } },
    { ...newObject("around", "ambientLight", "Light all round"), rest: { intensity: 1.2 } },
  );
  return scene;
}

/** An object whose properties all rest at the kind's defaults. */
export function newObject(id: string, kind: ObjectKind, name: string): StageObject {
  return { id, name, kind, parentId: null, hidden: false, locked: false, settings: {}, rest: {} };
}

/** What every sound has, as a new one gets it. */
export function newSoundBasics(id: string, name: string) {
  return {
    id,
    name,
    heard: true,
    muted: false,
    faderDb: 0,
    pan: 0,
    busId: null,
    groupId: null,
    runs: "tape",
    loops: false,
    place: null,
  } as const;
}

/** A strand with default shaping, and the hue and shape least used so far. */
export function newStrand(
  scene: Scene,
  id: string,
  name: string,
  listensTo: ListensTo,
  measure: Measure = MEASURES.band.defaults,
): Strand {
  const hue = leastUsed(
    HUE_COUNT,
    scene.strands.map((strand) => strand.hue),
  );
  const shape = leastUsed(
    STRAND_SHAPES.length,
    scene.strands.map((strand) => STRAND_SHAPES.indexOf(strand.shape)),
  );
  return {
    id,
    name,
    hue,
    shape: STRAND_SHAPES[shape],
    listensTo,
    muted: false,
    measure: { ...measure },
    shaping: defaultShaping(MEASURES[measure.kind].unit),
    cues: defaultCues(),
  };
}

function leastUsed(count: number, used: number[]): number {
  const uses = new Array<number>(count).fill(0);
  for (const one of used) uses[one]++;
  return uses.indexOf(Math.min(...uses));
}

/** Time in which a new kick falls to 37 %. */
const KICK_DECAY_MS = 250;

/**
 * A binding that visibly moves its property: from rest to half as much again for numbers, to white for colours, on and
 * off for what is shown; what counts at cues is kicked.
 *
 * @throws RangeError if the object's kind has no such property
 */
export function newBinding(id: string, strandId: string, object: StageObject, property: string): Binding {
  const declaration = propertiesOf(object.kind)[property];
  if (!declaration) throw new RangeError(`a ${object.kind} has no property "${property}"`);
  const rest = object.rest[property] ?? declaration.default;
  const common = {
    id,
    strandId,
    objectId: object.id,
    property,
    mode: "set" as const,
    input: { low: 0, high: 1 },
    curve: { kind: "power" as const, power: 1 },
    deal: { kind: "order" as const, seed: 1 },
    decayMs: KICK_DECAY_MS,
    alternate: false,
  };
  if (declaration.type === "colour") {
    const stops = [
      { at: 0, colour: rest as string },
      { at: 1, colour: "#ffffff" },
    ];
    return { ...common, axes: [...AXES], output: { kind: "colours", stops, mix: "oklch" } };
  }
  if (declaration.type === "number" && (declaration.atCues || property === "shake")) {
    const high = declaration.atCues ? 60 : 0.3;
    return { ...common, mode: "kick", axes: [...AXES], output: { kind: "range", low: 0, high } };
  }
  if (property === "visibility") {
    return {
      ...common,
      axes: [...AXES],
      input: { low: 0.5, high: 0.5 },
      output: { kind: "range", low: 0, high: 1 },
    };
  }
  const isVector = declaration.type === "vector";
  const low = isVector ? (rest as number[])[declaration.uniform ? 0 : 1] : (rest as number);
  return {
    ...common,
    axes: isVector && !declaration.uniform ? ["y"] : [...AXES],
    output: { kind: "range", low, high: suggestedHigh(declaration, low) },
  };
}

function suggestedHigh(property: Exclude<Property, { type: "colour" }>, low: number): number {
  // What goes from nothing to all goes there.
  if (property.min === 0 && property.max === 1) return low < 1 ? 1 : 0;
  const raised = low === 0 ? Math.min(1, property.max) : low + Math.abs(low) * 0.5;
  return raised <= property.max ? raised : property.min;
}
