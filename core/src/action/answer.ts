import { type Static, type TObject, Type } from "@sinclair/typebox";
import { defaultsOf, type ReferenceTarget, type Settings, type ValuesOf } from "../setting/descriptor";
import { closed, Id, Name, settingSchemas, tagged } from "../setting/schema";
import { ACTION_KINDS, ACTION_TIMING, ACTIONS, type ActionKind } from "./actions";
import { CONDITION_SETTINGS } from "./conditions";
import { CUE_SOURCE_KINDS, CUE_SOURCES, type CueSourceDeclaration, type CueSourceKind } from "./cueSources";

/** Actions of one answer at most. */
export const MAX_ACTIONS = 24;

/** A source of cues and its settings. */
export type CueSource = {
  [K in CueSourceKind]: { kind: K } & ValuesOf<(typeof CUE_SOURCES)[K]["settings"]>;
}[CueSourceKind];
/** One thing that happens on a cue. */
export type Action = {
  [K in ActionKind]: { kind: K } & ValuesOf<(typeof ACTIONS)[K]["settings"]> & ValuesOf<typeof ACTION_TIMING>;
}[ActionKind];
export type CueSourceOf<K extends CueSourceKind> = Extract<CueSource, { kind: K }>;
export type ActionOf<K extends ActionKind> = Extract<Action, { kind: K }>;

const shape = (kind: string, settings: Settings): TObject =>
  Type.Object({ kind: Type.Literal(kind), ...settingSchemas(settings) }, closed);

/** An answer: a source of cues, the conditions under which it takes them, and its actions in order. */
export const AnswerSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** One that is off does nothing. */
    on: Type.Boolean(),
    cue: Type.Unsafe<CueSource>(
      tagged(CUE_SOURCE_KINDS.map((kind) => shape(kind, CUE_SOURCES[kind].settings))),
    ),
    only: Type.Object(settingSchemas(CONDITION_SETTINGS), closed),
    actions: Type.Array(
      Type.Unsafe<Action>(
        tagged(ACTION_KINDS.map((kind) => shape(kind, { ...ACTIONS[kind].settings, ...ACTION_TIMING }))),
      ),
      { maxItems: MAX_ACTIONS },
    ),
  },
  closed,
);
export type Answer = Static<typeof AnswerSchema>;

/** A cue source with default settings. */
export const newCueSource = <K extends CueSourceKind>(
  kind: K,
  values: Partial<CueSourceOf<K>> = {},
): CueSourceOf<K> =>
  ({ kind, ...defaultsOf(CUE_SOURCES[kind].settings as Settings), ...values }) as unknown as CueSourceOf<K>;

/** An action with default settings. */
export const newAction = <K extends ActionKind>(kind: K, values: Partial<ActionOf<K>> = {}): ActionOf<K> =>
  ({
    kind,
    ...defaultsOf({ ...(ACTIONS[kind].settings as Settings), ...ACTION_TIMING }),
    ...values,
  }) as unknown as ActionOf<K>;

/** An answer that nothing holds back. */
export const newAnswer = (id: string, name: string, cue: CueSource, actions: Action[]): Answer => ({
  id,
  name,
  on: true,
  cue,
  only: { ...defaultsOf(CONDITION_SETTINGS), gapMs: gapOf(cue.kind) },
  actions,
});

/** Time between two cues of a kind that new answers begin with, ms. */
export const gapOf = (kind: CueSourceKind): number =>
  (CUE_SOURCES[kind] as CueSourceDeclaration).gapMs ?? CONDITION_SETTINGS.gapMs.default;

/**
 * When each action of an answer begins, ms after its cue: by its own delay, and a pause or stop after a fade of the same
 * sound before it, once that is over.
 */
export function startsOf(actions: readonly Action[]): number[] {
  return actions.map((action, i) => {
    if (action.kind !== "pause" && action.kind !== "stop") return action.delayMs;
    const ends = actions
      .slice(0, i)
      .flatMap((one) =>
        one.kind === "fade" && one.soundId === action.soundId ? [one.delayMs + one.overMs] : [],
      );
    return Math.max(0, ...ends) + action.delayMs;
  });
}

/** The parts of a sentence: words, and settings by their keys. */
export function sentenceParts(sentence: string): ({ words: string } | { key: string })[] {
  return sentence
    .split(/(\{\w+\})/)
    .filter((part) => part !== "")
    .map((part) => (part.startsWith("{") ? { key: part.slice(1, -1) } : { words: part }));
}

/** Which of the ids in some settings lead to a kind of thing: all references, by their keys. */
export function referencesIn(
  settings: Settings,
  values: Readonly<Record<string, unknown>>,
): { key: string; to: ReferenceTarget; kinds: readonly string[] | undefined; id: string }[] {
  return Object.entries(settings).flatMap(([key, setting]) => {
    if (setting.type !== "reference" && setting.type !== "references") return [];
    const ids = [values[key]].flat().filter((id): id is string => typeof id === "string");
    return ids.map((id) => ({ key, to: setting.to, kinds: setting.kinds, id }));
  });
}
