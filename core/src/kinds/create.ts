import {
  AXES,
  type Binding,
  type BindingMode,
  CURVE_SETTINGS,
  KICK_SETTINGS,
  newMeeting,
  type ObjectKind,
  type Scene,
  type StageObject,
} from "../document/scene";
import { SCENE_FORMAT, SCENE_VERSION } from "../document/sceneLimits";
import { hexToLinear, linearToOklch } from "../setting/colour";
import { defaultsOf } from "../setting/descriptor";
import { DEFAULT_PALETTE, PALETTES } from "../setting/palettes";
import type { NumberProperty, VectorProperty } from "../setting/property";
import { kindOf, propertyOf, SINGLETON_KINDS } from "./table";

/** A scene with nothing in it but what always exists. */
export function newScene(name: string): Scene {
  return {
    format: SCENE_FORMAT,
    version: SCENE_VERSION,
    name,
    about: "",
    loop: false,
    stretch: null,
    sounds: [],
    buses: [],
    groups: [],
    strands: [],
    objects: SINGLETON_KINDS.map((kind) => newObject(kind, kind, kindOf(kind).label)),
    assets: [],
    programs: [],
    budget: "desktop",
    quality: "auto",
    palette: { id: DEFAULT_PALETTE, seed: 1 },
    bindings: [],
    answers: [],
    marks: [],
    beginsAtOnce: true,
    meeting: newMeeting(),
    takeId: null,
    limitsFlashes: false,
    flashing: null,
    takeUse: "none",
    keeps: [],
  };
}

/** A new project: what always exists, light to see things by, and a floor they stand on. */
export function newProject(name: string): Scene {
  const scene = newScene(name);
  const { floor, lamp } = PALETTES[DEFAULT_PALETTE];
  const restOfKind = (kind: ObjectKind, rest: StageObject["rest"]) =>
    Object.assign(scene.objects.find((one) => one.kind === kind)!.rest, rest);
  restOfKind("camera", { position: [0, 1.9, 6.6], target: [0, 0.9, 0], fieldOfView: 40 });
  restOfKind("lens", { bloom: 0.25, vignette: 0.25 });
  scene.objects.push(
    { ...newObject("above", "sunLight", "Light from above"), rest: { colour: lamp, intensity: 2 } },
    {
      ...newObject("floor", "ground", "Floor"),
      rest: { colour: floor, lineGlow: 0, roughness: 0.35, reflection: 0.35, extent: 40 },
    },
  );
  return scene;
}

/** An object whose properties all rest at their defaults. */
export function newObject(id: string, kind: ObjectKind, name: string): StageObject {
  return { id, name, kind, parentId: null, hidden: false, locked: false, settings: {}, rest: {} };
}

/** The value a property rests at; of a vector, on the axis a new binding moves. */
function restOf(object: StageObject, key: string, property: NumberProperty | VectorProperty): number {
  const rest = object.rest[key] ?? property.default;
  return typeof rest === "number" ? rest : (rest as readonly number[])[vectorAxis(property)];
}

/** The axis that a new binding moves; 0 for numbers and for vectors that are bound as one. */
const vectorAxis = (property: NumberProperty | VectorProperty) =>
  property.type === "vector" && !property.uniform ? AXES.indexOf(property.bindsAxis ?? "y") : 0;

/**
 * The output range that shows a binding best in a mode: from rest by a visible change for `set`, from no change for
 * the other modes.
 */
export function visibleRange(
  property: NumberProperty | VectorProperty,
  rest: number,
  mode: BindingMode,
): { low: number; high: number } {
  const { visible, max, min } = property;
  switch (mode) {
    case "set": {
      const raised = Math.min(max, round(rest + visible));
      const lowered = Math.max(min, round(rest - visible));
      return { low: rest, high: rest - lowered - (raised - rest) > 1e-9 ? lowered : raised };
    }
    case "multiply":
      return { low: 1, high: rest === 0 ? 2 : Math.max(1.5, round(1 + visible / Math.abs(rest))) };
    default:
      return { low: 0, high: visible };
  }
}

const round = (value: number) => Number(value.toPrecision(6));

/**
 * A binding that visibly moves its property: from rest by what the property declares as visible, to white or, where that is light already, an accent for colours,
 * on and off for what is shown; what counts at cues is kicked.
 *
 * @throws RangeError if the object has no such property
 */
export function newBinding(id: string, strandId: string, object: StageObject, key: string): Binding {
  const property = propertyOf(object, key);
  if (!property) throw new RangeError(`a ${object.kind} has no property "${key}"`);
  const common = {
    id,
    strandId,
    objectId: object.id,
    property: key,
    mode: "set" as const,
    axes: [...AXES],
    input: { low: 0, high: 1 },
    curve: { kind: "power" as const, ...defaultsOf(CURVE_SETTINGS) },
    deal: { kind: "order" as const, seed: 1 },
    ...defaultsOf(KICK_SETTINGS),
  };
  if (property.type === "colour") {
    const from = (object.rest[key] as string | undefined) ?? property.default;
    const stops = [
      { at: 0, colour: from },
      { at: 1, colour: isLight(from) ? ACCENT : "#ffffff" },
    ];
    return { ...common, output: { kind: "colours", stops, mix: "oklch" } };
  }
  if (property.switchesAt !== undefined) {
    const at = property.switchesAt;
    return { ...common, input: { low: at, high: at }, output: { kind: "range", low: 0, high: 1 } };
  }
  const mode = property.bindsAs ?? common.mode;
  return {
    ...common,
    mode,
    axes: property.type === "vector" && !property.uniform ? [AXES[vectorAxis(property)]] : common.axes,
    output: { kind: "range", ...visibleRange(property, restOf(object, key, property), mode) },
  };
}

/** New bindings take light colours to this accent: to white, nobody would see a change. */
const ACCENT = PALETTES[DEFAULT_PALETTE].inks[3];
const LIGHT_FROM = 0.75;
const isLight = (colour: string) => linearToOklch(hexToLinear(colour))[0] > LIGHT_FROM;

/** The output range of a binding after a change of its mode. */
export function rangeForMode(
  object: StageObject,
  key: string,
  mode: BindingMode,
): Binding["output"] | undefined {
  const property = propertyOf(object, key);
  if (!property || property.type === "colour") return undefined;
  return { kind: "range", ...visibleRange(property, restOf(object, key, property), mode) };
}

/** Objects of which exactly one always exists, as they are while the document does not mention them. */
const UNMENTIONED = SINGLETON_KINDS.map((kind) => newObject(kind, kind, kindOf(kind).label));

/** The scene's objects, with those that always exist. */
export function withSingletons(objects: readonly StageObject[]): readonly StageObject[] {
  const missing = UNMENTIONED.filter(({ kind }) => !objects.some((object) => object.kind === kind));
  return missing.length > 0 ? [...missing, ...objects] : objects;
}
