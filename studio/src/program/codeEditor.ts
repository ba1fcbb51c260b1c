import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { PROGRAM_KINDS, type ProgramKind } from "@bumbrel/core/program/kinds";
import {
  autocompletion,
  closeBrackets,
  closeBracketsKeymap,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { javascript } from "@codemirror/lang-javascript";
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
import { completionOf, type Named } from "./completion";

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

/** A field for code; `onChange` is called with the whole text after each change that a person makes. */
export function codeEditor(
  parent: HTMLElement,
  kind: ProgramKind,
  code: string,
  named: () => Named,
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
        PROGRAM_KINDS[kind].language === "glsl"
          ? StreamLanguage.define(shader)
          : javascript({ typescript: true }).language,
        syntaxHighlighting(COLOURS),
        autocompletion({ override: [completionOf(kind, named)] }),
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
        EditorView.contentAttributes.of({ "aria-label": "Code", spellcheck: "false" }),
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
