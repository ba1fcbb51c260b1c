import type { ObjectKind, Scene } from "../document/scene";
import type { SettingValue } from "../setting/descriptor";
import type { ObjectSetting, Property } from "../setting/property";
import { ALWAYS, ARRANGING } from "./always";
import type { BodySize, Capabilities, ObjectKindDeclaration, Simulated } from "./declaration";
import { surface } from "./shared";
import { DRAWINGS } from "./shelves/drawings";
import { LIGHTS } from "./shelves/lights";
import { MOVING } from "./shelves/moving";
import { PROGRAMMED_KINDS } from "./shelves/programmed";
import { SHAPES } from "./shelves/shapes";
import { SURROUNDINGS } from "./shelves/surroundings";
import { VISITING, WORLD } from "./shelves/visiting";

/**
 * Every kind of object, a file a shelf, with its bindable properties, its settings and what it can do: the one table
 * that schema, sheet, evaluator, player and docs read. Lengths are metres.
 */
export const OBJECT_KINDS = {
  ...ALWAYS,
  ...WORLD,
  ...SHAPES,
  ...ARRANGING,
  ...DRAWINGS,
  ...MOVING,
  ...LIGHTS,
  ...SURROUNDINGS,
  ...VISITING,
  ...PROGRAMMED_KINDS,
};

type Declarations = typeof OBJECT_KINDS;
declare module "../document/scene" {
  interface ObjectKinds extends Declarations {}
}
export const OBJECT_KIND_NAMES = Object.keys(OBJECT_KINDS) as ObjectKind[];

/** How a kind is declared, whichever it is. */
export const kindOf = (kind: ObjectKind): ObjectKindDeclaration => OBJECT_KINDS[kind];
export const SINGLETON_KINDS = OBJECT_KIND_NAMES.filter((kind) => kindOf(kind).singleton);

/** Abilities of an object of a kind. */
export const can = (kind: ObjectKind): Capabilities => kindOf(kind).can;

/** Parts of an object that decide which of its properties exist and have an effect. */
export interface Configured {
  kind: ObjectKind;
  settings: Readonly<Record<string, SettingValue>>;
  /** Properties of its own, declared by what it shows. */
  own?: Readonly<Record<string, Property>>;
}

/** The declared properties of an object, in the order they are shown: those of its kind, then its own. */
export function propertiesOf({ kind, own }: Pick<Configured, "kind" | "own">): Record<string, Property> {
  const { properties } = kindOf(kind);
  return own ? { ...properties, ...own } : properties;
}

/** One declared property of an object; `undefined` when it has none of that key. */
export function propertyOf(
  { kind, own }: Pick<Configured, "kind" | "own">,
  key: string,
): Property | undefined {
  const { properties } = kindOf(kind);
  if (Object.hasOwn(properties, key)) return properties[key];
  return own && Object.hasOwn(own, key) ? own[key] : undefined;
}

/** The declared settings of a kind, in the order they are shown. */
export const settingsOfKind = (kind: ObjectKind): Record<string, ObjectSetting> => kindOf(kind).settings;

/** A setting's value: the object's own, or the kind's default. */
export function settingOf({ kind, settings }: Configured, key: string): SettingValue {
  return settings[key] ?? (settingsOfKind(kind)[key]?.default as SettingValue | undefined) ?? null;
}

/** True if a property or setting has any effect with the object's settings as they are. */
export function isInUse(object: Configured, declaration: Pick<ObjectSetting, "when">): boolean {
  const { when } = declaration;
  if (!when) return true;
  if (!(when.is as readonly SettingValue[]).includes(settingOf(object, when.setting))) return false;
  const needed = settingsOfKind(object.kind)[when.setting];
  return !needed || isInUse(object, needed);
}

/** The properties of an object that have an effect, in the order they are shown. */
export function propertiesInUse(object: Configured): Record<string, Property> {
  // A surface that is shared belongs to the material.
  const isShared = !can(object.kind).shared && settingOf(object, "materialId") !== null;
  return Object.fromEntries(
    Object.entries(propertiesOf(object)).filter(
      ([key, property]) =>
        isInUse(object, property) && !(isShared && property.section === "surface" && key in surface),
    ),
  );
}

/** True if an object is made of copies, each of which may have numbers of its own. */
export function hasCopies(object: Configured): boolean {
  const { copies } = can(object.kind);
  return copies === "always" || (copies === "formation" && settingOf(object, "formation") !== "none");
}

/** Which parts of an object are simulated in steps. */
export function simulates(object: Configured): Simulated[] {
  const { simulates: part, wake } = can(object.kind);
  const parts: Simulated[] = part ? [part] : [];
  if (wake && settingOf(object, "wake") === true) parts.push("wake");
  return parts;
}

/** The geometry of a kind with a surface. */
export const bodySizeOf = (kind: ObjectKind): BodySize | undefined => kindOf(kind).body;

/** Solidity of an object: none, or how its body moves. */
export function solidityOf(object: Configured): "none" | "fixed" | "moving" | "carried" {
  if (!can(object.kind).solid) return "none";
  return settingOf(object, "solid") as "none" | "fixed" | "moving" | "carried";
}

/** Somebody may walk in a scene, or stand in it. */
const isEntered = ({ look, headset, room }: Scene["meeting"]): boolean => look === "walk" || headset || room;

/** True if a scene needs physics: an object moves freely, or visitors can bump into solid objects. */
export const hasBodies = ({ objects, meeting }: Pick<Scene, "objects" | "meeting">): boolean =>
  objects.some(
    ({ settings: { solid } }) =>
      solid === "moving" || (isEntered(meeting) && (solid === "fixed" || solid === "carried")),
  );
