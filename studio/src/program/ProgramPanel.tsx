import type { Program } from "@bumbrel/core/document/scene";
import { type LostBinding, strandsBy, usersOf } from "@bumbrel/core/kinds/programs";
import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { PROGRAM_KINDS } from "@bumbrel/core/program/kinds";
import { Copy, RotateCcw, Trash2, X } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import { sameButRest, useEditing, useScene } from "../session/context";
import {
  openProgram,
  removeProgram,
  renameProgram,
  saveCode,
  saveDraft,
  useOpenProgram,
  writeNumber,
  writeProgram,
} from "../session/edits/programs";
import { fewNames } from "../session/edits/stage";
import { useStrands } from "../session/strandHooks";
import { Button, IconButton } from "../ui/Button";
import { NameField } from "../ui/fields/NameField";
import { problemsOf, warmUp } from "./checker";
import { useFailure } from "./running";

/** Milliseconds after the last key until a text is checked. */
const CHECK_AFTER_MS = 120;

/** The program that is being written, below the stage; nothing while none is. */
export function ProgramPanel() {
  const { programId } = useOpenProgram();
  const program = useScene((scene) => scene.programs.find(({ id }) => id === programId));
  return program ? <Open key={program.id} program={program} /> : null;
}

type CodeEditor = typeof import("./codeEditor");

function Open({ program }: { program: Program }) {
  const editing = useEditing();
  const objects = useScene((scene) => scene.objects, sameButRest);
  const strands = useStrands();
  const users = usersOf({ objects }, program.id);
  const listening = strandsBy({ strands }, program.id);
  const failure = useFailure(program, listening);
  const place = useRef<HTMLDivElement>(null);
  const editor = useRef<{ view: ReturnType<CodeEditor["codeEditor"]>; code: CodeEditor }>(undefined);
  const [problems, setProblems] = useState<readonly ProgramProblem[]>([]);
  const [lost, setLost] = useState<readonly LostBinding[]>([]);
  const [isReady, setReady] = useState(false);
  const { id, kind } = program;
  const text = program.draft ?? program.code;
  const first = useRef(text);
  /** The last text was not checked when the panel was closed: check it as soon as the editor is there. */
  const isUnchecked = useRef(program.draft !== null);
  const wasChecked = useRef(false);

  /** The last text that was asked about counts: answers may come in another order. */
  const turn = useRef(0);
  const check = useCallback(
    async (code: string, isTyped: boolean) => {
      const made = editor.current;
      const now = ++turn.current;
      const found = await problemsOf(kind, code);
      if (!made || editor.current !== made || now !== turn.current) return;
      setProblems(found);
      made.code.markProblems(made.view, found);
      if (!isTyped) return;
      if (found.length === 0) setLost(saveCode(editing, id, code));
      else saveDraft(editing, id, code);
    },
    [editing, id, kind],
  );

  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let isGone = false;
    warmUp(kind);
    void import("./codeEditor").then((code) => {
      if (isGone || !place.current) return;
      const view = code.codeEditor(
        place.current,
        kind,
        first.current,
        () => editing.scene,
        (typed) => {
          clearTimeout(timer);
          timer = setTimeout(() => void check(typed, true), CHECK_AFTER_MS);
        },
      );
      editor.current = { view, code };
      setReady(true);
    });
    return () => {
      isGone = true;
      // Save the last typed text before the panel closes.
      const code = editor.current?.view.state.doc.toString();
      clearTimeout(timer);
      const now = editing.scene.programs.find((one) => one.id === id);
      if (code !== undefined && now && code !== (now.draft ?? now.code)) saveDraft(editing, id, code);
      editing.endGesture();
      editor.current?.view.destroy();
      editor.current = undefined;
    };
  }, [editing, id, kind, check]);

  // The first look, undo, and edits in other windows.
  useEffect(() => {
    const made = editor.current;
    if (!isReady || !made) return;
    if (!made.view.hasFocus) made.code.replaceCode(made.view, text);
    else if (wasChecked.current) return;
    wasChecked.current = true;
    void check(made.view.state.doc.toString(), isUnchecked.current);
    isUnchecked.current = false;
  }, [text, isReady, check]);

  const all = [...users, ...listening];
  const usedBy = `${PROGRAM_KINDS[kind].label}, used by ${all.length === 0 ? "nothing" : fewNames(all)}`;
  return (
    <section
      aria-label="Program"
      className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)_auto] border-t border-rule bg-sunk"
    >
      <div className="flex items-center gap-2 border-b border-rule px-3 py-1">
        <NameField
          label="Program name"
          className="min-w-24 shrink"
          value={program.name}
          onRename={(name) => renameProgram(editing, id, name)}
        />
        <span className="min-w-0 grow truncate text-sm text-mist" title={usedBy}>
          {usedBy}
        </span>
        <IconButton
          small
          label={kind === "number" ? "Write a copy for these strands" : "Write a copy for these objects"}
          disabled={all.length === 0}
          onClick={() =>
            openProgram(
              kind === "number"
                ? writeNumber(editing, listening, program)
                : writeProgram(editing, users, program),
            )
          }
        >
          <Copy size={15} />
        </IconButton>
        <IconButton
          small
          label={`Remove ${program.name}`}
          onClick={() => {
            removeProgram(editing, id);
            openProgram(undefined);
          }}
        >
          <Trash2 size={15} />
        </IconButton>
        <IconButton small label="Close the program" onClick={() => openProgram(undefined)}>
          <X size={16} />
        </IconButton>
      </div>
      <div ref={place} className="min-h-0 overflow-hidden" />
      <State problems={problems} lost={lost} program={program} isReady={isReady} failure={failure} />
    </section>
  );
}

/** State of the text: it works, or its first problem. */
function State({
  problems,
  lost,
  program,
  isReady,
  failure,
}: {
  problems: readonly ProgramProblem[];
  lost: readonly LostBinding[];
  program: Program;
  isReady: boolean;
  failure: ReturnType<typeof useFailure>;
}) {
  const lines = program.code.split("\n").length;
  const [first] = problems;
  return (
    <p role="status" className="truncate border-t border-rule px-3 py-1 text-sm">
      {!isReady ? (
        <span className="text-mist">Opening …</span>
      ) : first ? (
        <span className="text-alarm">
          Line {Math.min(first.line, (program.draft ?? program.code).split("\n").length)}: {first.message}
          <span className="text-mist"> The last version that worked is shown.</span>
        </span>
      ) : lost.length > 0 ? (
        <span className="text-alarm">
          {lost.map(({ object, value }) => `“${value}” of ${object}`).join(", ")} moved with a strand, and is
          not in the code any more.
        </span>
      ) : failure ? (
        <span className="flex items-center gap-2 text-alarm">
          <span className="min-w-0 truncate" title={failure.message}>
            Line {failure.line}: {failure.message}
          </span>
          {failure.restart && (
            <Button className="shrink-0 px-2 py-0 text-sm" onClick={failure.restart}>
              <RotateCcw size={13} aria-hidden /> Start again
            </Button>
          )}
        </span>
      ) : (
        <span className="text-mist">
          Works. {lines === 1 ? "1 line" : `${lines} lines`}, saved as you type.
        </span>
      )}
    </p>
  );
}
