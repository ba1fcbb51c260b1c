import { ACTION_KINDS, ACTION_TIMING, ACTIONS } from "@bumbrel/core/action/actions";
import { type Action, type Answer, sentenceParts, startsOf } from "@bumbrel/core/action/answer";
import { CONDITION_SETTINGS } from "@bumbrel/core/action/conditions";
import { CUE_SOURCE_KINDS, CUE_SOURCES } from "@bumbrel/core/action/cueSources";
import type { StageObject } from "@bumbrel/core/document/scene";
import type { Setting, Settings, When } from "@bumbrel/core/setting/descriptor";
import { ArrowDown, ArrowUp, Filter, Hand, Timer, Trash2 } from "lucide-react";
import { Fragment, useEffect, useRef, useState } from "react";
import { useEditing, usePlayer, useScene } from "../../../session/context";
import {
  addAction,
  changeCue,
  editAnswer,
  removeAnswer,
  settingsOfAction,
  settingsOfCue,
  switchCuesOn,
  type Values,
} from "../../../session/edits/answers";
import { Button, IconButton } from "../../../ui/Button";
import { Choice } from "../../../ui/fields/Choice";
import { NameField } from "../../../ui/fields/NameField";
import { useFrame } from "../../../ui/live/frames";
import { AnswerField } from "./AnswerField";

/** How long an answer that has just fired is lit, s. */
const LIT_S = 0.35;

/** One answer as sentences: what happens, what holds it back, and what is done then, in order. */
export function AnswerLine({ answer, object }: { answer: Answer; object?: StageObject | undefined }) {
  const editing = useEditing();
  const player = usePlayer();
  const { id, name, on, cue, only, actions } = answer;
  const [isHeldOpen, setHeldOpen] = useState(false);
  const done = () => editing.endGesture();
  const change = (what: string, apply: (draft: Answer) => void) =>
    editAnswer(editing, id, `change ${name}`, apply, `answer ${id} ${what}`);
  const held = Object.entries(CONDITION_SETTINGS).filter(
    ([key, setting]) => only[key as keyof typeof only] !== setting.default,
  );
  return (
    <article
      aria-label={name}
      // In a sentence a field is as wide as its words.
      className={`grid gap-1 border-t border-rule py-2 text-sm [&_select]:field-sizing-content ${on ? "" : "opacity-55"}`}
    >
      <div className="flex items-center gap-1">
        <FiredLight answerId={id} />
        <NameField
          label="Answer name"
          className="min-w-0 grow"
          value={name}
          onRename={(next) => {
            change("name", (draft) => {
              draft.name = next;
            });
            done();
          }}
        />
        <label className="inline-flex items-center gap-1 text-mist">
          <input
            type="checkbox"
            className="accent-[var(--brass)]"
            checked={on}
            onChange={(event) => {
              change("on", (draft) => {
                draft.on = event.target.checked;
              });
              done();
            }}
          />
          on
        </label>
        <IconButton
          small
          label={isHeldOpen ? "Put away what holds it back" : "What holds it back"}
          aria-pressed={isHeldOpen}
          className={held.length > 0 ? "text-brass" : ""}
          onClick={() => setHeldOpen(!isHeldOpen)}
        >
          <Filter size={14} />
        </IconButton>
        <IconButton
          small
          label={`Try ${name}`}
          title="Does it now, as if it had happened"
          disabled={!on}
          onClick={() => player.tryAnswer(id)}
        >
          <Hand size={14} />
        </IconButton>
        <IconButton small label={`Remove ${name}`} onClick={() => removeAnswer(editing, answer)}>
          <Trash2 size={14} />
        </IconButton>
      </div>
      <p className="flex flex-wrap items-center gap-x-1.5 gap-y-1 text-mist">
        <Choice
          label="What is answered"
          value={cue.kind}
          choices={CUE_SOURCE_KINDS.map((kind) => [kind, CUE_SOURCES[kind].label] as const)}
          onChange={(kind) => changeCue(editing, answer, kind)}
        />
        <Sentence
          sentence={CUE_SOURCES[cue.kind].sentence}
          settings={settingsOfCue(cue)}
          values={cue}
          onChange={(values) => change("cue", (draft) => Object.assign(draft.cue, values))}
          onDone={done}
        />
      </p>
      {cue.kind === "strand" && <CuesOff strandId={cue.strandId} />}
      {(isHeldOpen || held.length > 0) && (
        <HeldBack
          {...{ only, isOpen: isHeldOpen }}
          onChange={(values) => change("only", (draft) => Object.assign(draft.only, values))}
          onDone={done}
        />
      )}
      <ol className="grid gap-1 border-l-2 border-brass/60 pl-2">
        {actions.map((action, i) => (
          <ActionLine
            // biome-ignore lint/suspicious/noArrayIndexKey: an action is nothing but its place in the list
            key={i}
            {...{ action, i, last: actions.length - 1, waitsMs: startsOf(actions)[i] - action.delayMs }}
            onChange={(what, apply) => change(`${what} ${i}`, apply)}
            onDone={done}
          />
        ))}
        <li>
          <Choice
            label="One more thing that happens"
            value=""
            choices={[
              ["", actions.length === 0 ? "then … choose what happens" : "and then …"],
              ...ACTION_KINDS.map((kind) => [kind, ACTIONS[kind].label] as const),
            ]}
            onChange={(kind) => kind !== "" && addAction(editing, answer, kind, object)}
          />
        </li>
      </ol>
    </article>
  );
}

/** Says that a strand gives no cues, which the answer waits for, and switches them on. */
function CuesOff({ strandId }: { strandId: string | null }) {
  const editing = useEditing();
  const strand = useScene(({ strands }) => strands.find(({ id }) => id === strandId));
  if (!strand || strand.cues.on) return null;
  return (
    <p className="flex flex-wrap items-center gap-2 text-brass">
      {strand.name} gives no cues.
      <Button onClick={() => switchCuesOn(editing, strand.id)}>Switch them on</Button>
    </p>
  );
}

/** Lights up shortly each time the answer fires. */
function FiredLight({ answerId }: { answerId: string }) {
  const player = usePlayer();
  const light = useRef<HTMLSpanElement>(null);
  const isLit = useRef(false);
  useFrame((timeS) => {
    const lastS = player.lastFiredS(answerId);
    const nowLit = lastS !== undefined && timeS >= lastS && timeS - lastS < LIT_S;
    if (nowLit === isLit.current || !light.current) return;
    isLit.current = nowLit;
    light.current.dataset.lit = String(nowLit);
  });
  return (
    <span
      ref={light}
      aria-hidden
      className="size-2.5 shrink-0 rounded-full border border-mist data-[lit=true]:border-brass data-[lit=true]:bg-brass"
    />
  );
}

/** A sentence with fields for its settings, and after it the settings that the sentence does not name. */
function Sentence({
  sentence,
  settings,
  values,
  onChange,
  onDone,
}: {
  sentence: string;
  settings: Settings;
  values: Values;
  onChange(values: Values): void;
  onDone(): void;
}) {
  const parts = sentenceParts(sentence);
  const named = new Set(parts.flatMap((part) => ("key" in part ? [part.key] : [])));
  const rest = Object.entries(settings).filter(
    ([key, setting]) => !named.has(key) && isShown(setting.when, values),
  );
  const field = (key: string, setting: Setting) => (
    <AnswerField settingKey={key} {...{ setting, values, onChange, onDone }} />
  );
  return (
    <>
      {parts.map((part) =>
        "words" in part ? (
          <span key={part.words} className={part.words.startsWith(",") ? "-ml-1" : undefined}>
            {part.words.trim()}
          </span>
        ) : (
          <Fragment key={part.key}>{field(part.key, settings[part.key])}</Fragment>
        ),
      )}
      {rest.map(([key, setting]) => (
        <span key={key} className="inline-flex items-center gap-1.5">
          {setting.label.toLowerCase()} {field(key, setting)}
        </span>
      ))}
    </>
  );
}

const isShown = (when: When | undefined, values: Values) =>
  !when || (when.is as readonly unknown[]).includes(values[when.setting]);

function ActionLine({
  action,
  i,
  last,
  waitsMs,
  onChange,
  onDone,
}: {
  action: Action;
  i: number;
  last: number;
  /** Time that it waits for a fade before it, ms. */
  waitsMs: number;
  onChange(what: string, apply: (draft: Answer) => void): void;
  onDone(): void;
}) {
  const [hasDelay, setDelay] = useState(action.delayMs > 0);
  const set = (values: Values) =>
    onChange("action", (draft) => {
      Object.assign(draft.actions[i], values);
    });
  const move = (by: number) => {
    onChange("order", ({ actions }) => {
      actions.splice(i + by, 0, ...actions.splice(i, 1));
    });
    onDone();
  };
  return (
    <li className="flex items-start gap-1">
      <span className="flex grow flex-wrap items-center gap-x-1.5 gap-y-1 text-mist">
        {waitsMs > 0 && <span>once it has faded,</span>}
        {hasDelay && (
          <span className="inline-flex items-center gap-1.5">
            after
            <AnswerField
              settingKey="delayMs"
              setting={ACTION_TIMING.delayMs}
              values={action}
              onChange={set}
              onDone={onDone}
            />
          </span>
        )}
        <Sentence
          sentence={ACTIONS[action.kind].sentence}
          settings={settingsOfAction(action)}
          values={action}
          onChange={set}
          onDone={onDone}
        />
      </span>
      <span className="flex shrink-0">
        <IconButton
          small
          label={hasDelay ? "At once" : "Later"}
          aria-pressed={hasDelay}
          className={action.delayMs > 0 ? "text-brass" : ""}
          onClick={() => {
            setDelay(!hasDelay);
            if (!hasDelay) return;
            set({ delayMs: 0 });
            onDone();
          }}
        >
          <Timer size={14} />
        </IconButton>
        {last > 0 && (
          <>
            <IconButton small label="Earlier" disabled={i === 0} onClick={() => move(-1)}>
              <ArrowUp size={14} />
            </IconButton>
            <IconButton small label="Later in the list" disabled={i === last} onClick={() => move(1)}>
              <ArrowDown size={14} />
            </IconButton>
          </>
        )}
        <IconButton
          small
          label={`Remove: ${ACTIONS[action.kind].label.toLowerCase()}`}
          onClick={() => {
            onChange("removal", ({ actions }) => {
              actions.splice(i, 1);
            });
            onDone();
          }}
        >
          <Trash2 size={14} />
        </IconButton>
      </span>
    </li>
  );
}

/** Conditions of an answer: those that are set, or all of them to choose from. */
function HeldBack({
  only,
  isOpen,
  onChange,
  onDone,
}: {
  only: Answer["only"];
  isOpen: boolean;
  onChange(values: Values): void;
  onDone(): void;
}) {
  const values = only as Values;
  const hasMark = only.whileAboveId !== null;
  const hasSeed = only.chance < 1;
  const shown = Object.entries(CONDITION_SETTINGS).filter(([key, setting]) => {
    if (key === "aboveMark") return hasMark;
    if (key === "seed") return hasSeed;
    return isOpen || values[key] !== setting.default;
  });
  return (
    <p className="flex flex-wrap items-center gap-x-3 gap-y-1 text-mist">
      {shown.map(([key, setting]) => (
        <span key={key} className="inline-flex items-center gap-1.5" title={setting.help}>
          {setting.label.toLowerCase()}
          <AnswerField
            settingKey={key}
            setting={setting.type === "reference" ? { ...setting, orNone: "always" } : setting}
            {...{ values, onChange, onDone }}
          />
        </span>
      ))}
    </p>
  );
}

/** Scrolls an answer that was just made into sight. */
export function useScrollTo(id: string | undefined) {
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (id !== undefined) list.current?.lastElementChild?.scrollIntoView({ block: "nearest" });
  }, [id]);
  return list;
}
