import { Type } from "@sinclair/typebox";
import type { Action, Answer, CueSource } from "../action/answer";
import { copyOf } from "../document/versions/copyOf";
import { known, merge, namedEdit, nameOf, part, withId } from "./namedEdit";

/** Edits of answers. */
export const ANSWER_EDITS = {
  addAnswer: namedEdit({
    help: "Adds an answer: a cue, what holds it back, and what happens then.",
    args: { answer: part<Answer>("The answer with a new id, as the scene has it") },
    label: () => "add an answer",
    apply(draft, { answer }) {
      draft.answers.push(copyOf(answer));
    },
  }),
  changeAnswer: namedEdit({
    help: "Changes an answer: its name, its cue and what holds it back. Lists of actions are replaced.",
    args: { answerId: known("answer"), values: part<Partial<Answer>>("As the scene has them") },
    label: ({ answers }, { answerId }) => `change ${nameOf(answers, answerId, "an answer")}`,
    apply(draft, { answerId, values }) {
      const answer = withId(draft.answers, answerId);
      if (answer) merge(answer, values);
    },
  }),
  removeAnswer: namedEdit({
    help: "Removes an answer.",
    args: { answerId: known("answer") },
    label: ({ answers }, { answerId }) => `remove ${nameOf(answers, answerId, "an answer")}`,
    apply(draft, { answerId }) {
      draft.answers = draft.answers.filter(({ id }) => id !== answerId);
    },
  }),
  setCue: namedEdit({
    help: "Gives an answer another cue.",
    args: {
      answerId: known("answer"),
      cue: part<CueSource>("The cue, as the scene has it"),
      gapMs: Type.Optional(Type.Number({ minimum: 0, description: "Least pause between two, ms" })),
    },
    label: () => "change what is answered",
    apply(draft, { answerId, cue, gapMs }) {
      const answer = withId(draft.answers, answerId);
      if (!answer) return;
      if (gapMs !== undefined) answer.only.gapMs = gapMs;
      answer.cue = copyOf(cue);
    },
  }),
  addAction: namedEdit({
    help: "Adds an action to an answer.",
    args: { answerId: known("answer"), action: part<Action>("The action, as the scene has it") },
    label: ({ answers }, { answerId }) => `add to ${nameOf(answers, answerId, "an answer")}`,
    apply(draft, { answerId, action }) {
      withId(draft.answers, answerId)?.actions.push(copyOf(action));
    },
  }),
};
