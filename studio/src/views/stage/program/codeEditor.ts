import { EXPOSED_TYPES, type ProgramProblem, readExposed } from "@bumbrel/core/program/exposed";
import {
  GLSL_OFFERS,
  POINT_MEMBERS,
  SURFACE_FUNCTIONS,
  SURFACE_MEMBERS,
} from "@bumbrel/core/program/glslOffers";
import {
  autocompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
  closeBrackets,
  closeBracketsKeymap,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import {
  bracketMatching,
  HighlightStyle,
  indentOnInput,
  indentUnit,
  StreamLanguage,
  syntaxHighlighting,
} from "@codemirror/language";
import { shader } from "@codemirror/legacy-modes/mode/clike";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { highlightSelectionMatches, searchKeymap } from "@codemirror/search";
import { EditorState } from "@codemirror/state";
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";

const LOOK = EditorView.theme(
  {
    "&": { height: "100%", fontSize: "13px", backgroundColor: "transparent", color: "var(--color-paper)" },
    ".cm-scroller": { fontFamily: "var(--font-mono)", lineHeight: "1.5" },
    ".cm-content": { caretColor: "var(--color-brass)" },
    "&.cm-focused": { outline: "none" },
    ".cm-gutters": { backgroundColor: "transparent", color: "var(--color-mist)", border: "none" },
    ".cm-activeLine": { backgroundColor: "color-mix(in srgb, var(--color-raised) 50%, transparent)" },
    ".cm-cursor": { borderLeftColor: "var(--color-brass)" },
    "&.cm-focused .cm-selectionBackground, .cm-selectionBackground": {
      backgroundColor: "color-mix(in srgb, var(--color-brass) 25%, transparent) !important",
    },
    ".cm-tooltip, .cm-panels": {
      backgroundColor: "var(--color-ground)",
      color: "var(--color-paper)",
      border: "1px solid var(--color-rule)",
    },
    ".cm-tooltip-autocomplete ul li[aria-selected]": {
      backgroundColor: "var(--color-raised)",
      color: "var(--color-paper)",
    },
    ".cm-completionDetail": { color: "var(--color-mist)", fontStyle: "normal" },
    ".cm-diagnostic-error": { borderLeftColor: "var(--color-alarm)" },
  },
  { dark: true },
);
const COLOURS = HighlightStyle.define([
  { tag: tags.comment, color: "var(--color-mist)" },
  { tag: [tags.keyword, tags.typeName, tags.modifier], color: "var(--color-brass)" },
  { tag: [tags.number, tags.bool], color: "#7fd0c4" },
  { tag: [tags.meta, tags.processingInstruction], color: "#c9a2e6" },
  { tag: [tags.standard(tags.variableName), tags.function(tags.variableName)], color: "#8fc1f0" },
]);

const offers: Completion[] = [...GLSL_OFFERS, ...SURFACE_FUNCTIONS].map(({ name, signature, help }) => ({
  label: name,
  detail: signature.replace(/^\w+ /, "").slice(name.length),
  info: `${signature}\n${help}`,
  type: signature.includes("(") ? "function" : "variable",
  boost: 2,
}));
const types: Completion[] = Object.values(EXPOSED_TYPES).map(({ glsl, help }) => ({
  label: glsl,
  info: help,
  type: "type",
}));
/** What GLSL itself has and surfaces often need. */
const BUILT_IN =
  "abs acos all any asin atan ceil clamp cos cross degrees distance dot exp exp2 floor fract inversesqrt length log log2 max min mix mod normalize pow radians reflect refract round sign sin smoothstep sqrt step tan transpose texture uniform inout float vec2 vec4 mat3 return if else for while const struct void true false".split(
    " ",
  );
const builtIn: Completion[] = BUILT_IN.map((label) => ({ label, type: "keyword" }));

/** Everything that can be written at a place. */
function complete(context: CompletionContext): CompletionResult | null {
  const member = context.matchBefore(/\b([A-Za-z_]\w*)\.\w*/);
  if (member) {
    const variable = member.text.split(".")[0];
    const code = context.state.doc.toString();
    const of = (type: string) => new RegExp(`\\binout\\s+${type}\\s+${variable}\\b`).test(code);
    const members = of("Point") ? POINT_MEMBERS : of("Surface") ? SURFACE_MEMBERS : undefined;
    if (!members) return null;
    return {
      from: member.from + variable.length + 1,
      options: members.map(({ name, signature, help }) => ({
        label: name,
        detail: signature.split(" ")[0],
        info: help,
        type: "property",
      })),
    };
  }
  const word = context.matchBefore(/[A-Za-z_]\w*/);
  if (!word && !context.explicit) return null;
  const exposed = readExposed(context.state.doc.toString(), "glsl").values.map(
    ({ name, help }): Completion => ({ label: name, info: help, type: "variable", boost: 3 }),
  );
  return { from: word?.from ?? context.pos, options: [...exposed, ...offers, ...types, ...builtIn] };
}

/** A field for code; `onChange` is called with the whole text after each change that a person makes. */
export function codeEditor(
  parent: HTMLElement,
  code: string,
  label: string,
  onChange: (code: string) => void,
): EditorView {
  const nonce = document.querySelector<HTMLMetaElement>("meta[name=style-nonce]")?.content;
  return new EditorView({
    parent,
    state: EditorState.create({
      doc: code,
      extensions: [
        ...(nonce ? [EditorView.cspNonce.of(nonce)] : []),
        lineNumbers(),
        lintGutter(),
        history(),
        drawSelection(),
        indentOnInput(),
        bracketMatching(),
        closeBrackets(),
        highlightActiveLine(),
        highlightSelectionMatches(),
        indentUnit.of("  "),
        StreamLanguage.define(shader),
        syntaxHighlighting(COLOURS),
        autocompletion({ override: [complete] }),
        keymap.of([
          ...closeBracketsKeymap,
          ...defaultKeymap,
          ...searchKeymap,
          ...historyKeymap,
          ...completionKeymap,
          // Escape first leaves the field for the keyboard, as Tab indents.
          indentWithTab,
        ]),
        LOOK,
        EditorView.contentAttributes.of({ "aria-label": label, spellcheck: "false" }),
        EditorView.updateListener.of((update) => {
          const isOwn = update.transactions.some((one) => one.isUserEvent("outside"));
          if (update.docChanged && !isOwn) onChange(update.state.doc.toString());
        }),
      ],
    }),
  });
}

/** Takes over a text that was changed elsewhere. */
export function replaceCode(view: EditorView, code: string): void {
  if (view.state.doc.toString() === code) return;
  view.dispatch({
    changes: { from: 0, to: view.state.doc.length, insert: code },
    userEvent: "outside",
  });
}

/** Marks problems at their lines. */
export function markProblems(view: EditorView, problems: readonly ProgramProblem[]): void {
  const { doc } = view.state;
  const diagnostics = problems.map(({ line, message }): Diagnostic => {
    const { from, to, text } = doc.line(Math.min(Math.max(1, line), doc.lines));
    const start = from + (text.length - text.trimStart().length);
    return { from: Math.min(start, to), to, severity: "error", message };
  });
  view.dispatch(setDiagnostics(view.state, diagnostics));
}
