import { ACTIONS, type ActionKind } from "@bumbrel/core/action/actions";
import {
  type Action,
  type Answer,
  type CueSource,
  gapOf,
  newAction,
  newAnswer,
  newCueSource,
  referencesIn,
} from "@bumbrel/core/action/answer";
import { CONDITION_SETTINGS } from "@bumbrel/core/action/conditions";
import { CUE_SOURCES, type CueSourceKind } from "@bumbrel/core/action/cueSources";
import type { Mark, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { numberedName } from "@bumbrel/core/edit/namedEdit";
import { withSingletons } from "@bumbrel/core/kinds/create";
import { kindOf, propertiesInUse, propertyOf, settingOf, solidityOf } from "@bumbrel/core/kinds/table";
import type { ReferenceSetting, Settings } from "@bumbrel/core/setting/descriptor";
import type { Section } from "@bumbrel/core/strand/sections";
import { nanoid } from "nanoid";
import { dispatch, type Editable } from "./dispatch";

/** Settings with the values that somebody has chosen; keys are those of a declaration. */
export type Values = Record<string, unknown>;

/** Objects that alone can do what some actions are about. */
const IS_WHICH: Record<NonNullable<ReferenceSetting["which"]>, (object: StageObject) => boolean> = {
  moving: (object) => solidityOf(object) === "moving",
  placedByCues: (object) => settingOf(object, "formation") === "cues",
};

/** Things that a reference can lead to, with their names. */
export function choicesFor(
  scene: Scene,
  { to, kinds, which }: Pick<ReferenceSetting, "to" | "kinds" | "which">,
): readonly { id: string; name: string }[] {
  switch (to) {
    case "sound":
      return scene.sounds;
    case "strand":
      return scene.strands;
    case "mark":
      return scene.marks;
    case "program":
      return scene.programs;
    case "material":
      return scene.objects.filter(({ kind }) => kind === "material");
    case "object":
      // Objects that every scene has come last: they are seldom meant.
      return scene.objects
        .filter(({ kind }) => kind !== "material" && (!kinds || kinds.includes(kind)))
        .filter((object) => !which || IS_WHICH[which](object))
        .sort(
          (a, b) => Number(kindOf(a.kind).singleton === true) - Number(kindOf(b.kind).singleton === true),
        );
    default:
      return scene.assets.filter(({ kind }) => kind === to);
  }
}

/** The object that a setting of an action names. */
export function objectNamed(scene: Scene, values: Values, key: string): StageObject | undefined {
  return withSingletons(scene.objects).find(({ id }) => id === values[key]);
}

/** The settings of a cue source or an action. */
export const settingsOfCue = ({ kind }: CueSource): Settings => CUE_SOURCES[kind].settings;
export const settingsOfAction = ({ kind }: Action): Settings => ACTIONS[kind].settings;

/** True if an answer is about an object: by its cue, what holds it back or what it does. */
export function isAbout({ cue, only, actions }: Answer, objectId: string): boolean {
  const all = [
    ...referencesIn(settingsOfCue(cue), cue),
    ...referencesIn(CONDITION_SETTINGS, only),
    ...actions.flatMap((action) => referencesIn(settingsOfAction(action), action)),
  ];
  return all.some(({ to, id }) => to === "object" && id === objectId);
}

/** Answers that an object takes part in. */
export const answersAbout = (scene: Scene, objectId: string): Answer[] =>
  scene.answers.filter((answer) => isAbout(answer, objectId));

/** The first thing that a setting can lead to, the chosen object before others. */
function begun(scene: Scene, settings: Settings, object: StageObject | undefined): Values {
  const values: Values = {};
  for (const [key, setting] of Object.entries(settings)) {
    if (setting.type !== "reference" || setting.orNone !== undefined) continue;
    const choices = choicesFor(scene, setting);
    const own = setting.to === "object" && choices.find(({ id }) => id === object?.id);
    const first = own || choices[0];
    if (first) values[key] = first.id;
  }
  for (const [key, setting] of Object.entries(settings)) {
    if (setting.type === "reference" && setting.orNone === "anything" && object && object.kind !== "zone") {
      values[key] = object.id;
    }
    if (setting.type !== "property") continue;
    const of = objectNamed(scene, values, setting.of);
    if (of) Object.assign(values, firstProperty(of, key, settings, setting.types));
  }
  return values;
}

/** Properties of an object that an action can change. */
export function changeable(
  object: StageObject,
  types: readonly string[] = ["number", "vector", "colour"],
): [key: string, label: string][] {
  return Object.entries(propertiesInUse(object))
    .filter(([, { type }]) => types.includes(type))
    .map(([key, { label }]) => [key, label]);
}

/** Properties that are most often changed, most frequent first. */
const LIKELY = ["emissionStrength", "intensity", "growth", "scale", "opacity", "position"];

/** The property to begin with, and a value of its own for what it goes to. */
function firstProperty(
  object: StageObject,
  key: string,
  settings: Settings,
  types?: readonly string[],
): Values {
  const all = changeable(object, types);
  const likely = LIKELY.find((one) => all.some(([known]) => known === one));
  const property = likely ?? all[0]?.[0] ?? "";
  const goesTo = Object.entries(settings).find(
    ([, setting]) => setting.type === "rest" && setting.of === key,
  );
  return { [key]: property, ...(goesTo && property !== "" && { [goesTo[0]]: valueFor(object, property) }) };
}

/** A value that a property can visibly go to. */
export function valueFor(object: StageObject, key: string): RestValue {
  const property = propertyOf(object, key);
  if (!property) return 0;
  if (property.type === "colour") return "#e3b563";
  const rest = (object.rest[key] ?? property.default) as number | [number, number, number];
  const up = (one: number) => Math.min(property.max, Number((one + property.visible).toPrecision(6)));
  return typeof rest === "number" ? up(rest) : (rest.map(up) as [number, number, number]);
}

/**
 * Adds an answer with one cue source; gives its id. One that is made for an object and whose cue is not about that begins
 * with something that happens to it, so that it stands where it was made.
 */
export function addAnswer(document: Editable, kind: CueSourceKind, object?: StageObject): string {
  const id = nanoid(10);
  const { scene } = document;
  const cue = newCueSource(kind, begun(scene, CUE_SOURCES[kind].settings, object) as object);
  const answer = newAnswer(id, numberedName(scene.answers, "Answer"), cue, []);
  if (object && !isAbout(answer, object.id)) answer.actions.push(firstAction(scene, object));
  dispatch(document, "addAnswer", { answer });
  return id;
}

/** A visible first action: the object lights up, grows or moves and comes back, or is shown and hidden by turns. */
function firstAction(scene: Scene, object: StageObject): Action {
  const { settings } = ACTIONS.glide;
  if (changeable(object).length === 0) return newAction("show", { objectId: object.id, does: "turns" });
  return newAction("glide", { ...begun(scene, settings, object), back: true } as object);
}

/** Changes an answer. */
export function editAnswer(
  document: Editable,
  id: string,
  label: string,
  change: (answer: Answer) => void,
  gesture?: string,
): void {
  document.edit(
    label,
    (draft) => {
      const answer = draft.answers.find((one) => one.id === id);
      if (answer) change(answer);
    },
    gesture,
  );
}

export const removeAnswer = (document: Editable, { id }: Answer): void =>
  dispatch(document, "removeAnswer", { answerId: id });

/** Gives an answer another cue source; what both have stays. */
export function changeCue(document: Editable, answer: Answer, kind: CueSourceKind): void {
  const { settings } = CUE_SOURCES[kind] as { settings: Settings };
  const before = answer.cue as Values;
  const kept = Object.fromEntries(
    Object.keys(settings).flatMap((key) => (key in before ? [[key, before[key]]] : [])),
  );
  const cue = newCueSource(kind, { ...begun(document.scene, settings, undefined), ...kept } as object);
  // A pause that nobody has set follows the kind.
  const gapMs = answer.only.gapMs === gapOf(answer.cue.kind) && { gapMs: gapOf(kind) };
  dispatch(document, "setCue", { answerId: answer.id, cue, ...gapMs });
}

export function addAction(document: Editable, answer: Answer, kind: ActionKind, object?: StageObject): void {
  const action = newAction(kind, begun(document.scene, ACTIONS[kind].settings, object) as object);
  dispatch(document, "addAction", { answerId: answer.id, action });
}

/** Has a strand give cues. */
export const switchCuesOn = (document: Editable, strandId: string): void =>
  dispatch(document, "switchCuesOn", { strandId });

/** Adds a mark; gives its id. */
export function addMark(document: Editable, timeS: number): string {
  const id = nanoid(10);
  dispatch(document, "addMark", { id, timeS });
  return id;
}

/** Marks nearer to each other than this stand for the same section. */
const SAME_SECTION_S = 1;

/** Marks where sections begin, except where one is marked already; gives how many marks that are. */
export function addSections(document: Editable, sections: readonly Section[]): number {
  const known = document.scene.marks.filter(({ beginsSection }) => beginsSection);
  const isNew = ({ startS }: Section) =>
    known.every(({ timeS }) => Math.abs(timeS - startS) >= SAME_SECTION_S);
  const added = sections.filter(isNew);
  if (added.length === 0) return 0;
  dispatch(document, "addSections", {
    sections: added.map(({ startS, letter }) => ({ id: nanoid(10), name: letter, startS })),
  });
  return added.length;
}

export const editMark = (document: Editable, id: string, change: Partial<Mark>): void =>
  dispatch(document, "changeMark", { markId: id, values: change }, `mark ${id} ${Object.keys(change)}`);

export const removeMark = (document: Editable, id: string): void =>
  dispatch(document, "removeMark", { markId: id });
