import type { Program, Strand } from "@bumbrel/core/document/scene";
import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import type { Stage } from "@bumbrel/player/stage/stage";
import { useEffect } from "react";
import { create } from "zustand";
import { useResult } from "../session/context";

interface Failed {
  code: string;
  problem: ProgramProblem;
}

/** Errors of programs that ran on the stage, by their ids. */
const useFailures = create<{ byId: Readonly<Record<string, Failed>>; stage: Stage | undefined }>(() => ({
  byId: {},
  stage: undefined,
}));

/** Keeps track of programs that fail on a stage. */
export function useRunningPrograms(stage: Stage | undefined): void {
  useEffect(() => {
    useFailures.setState({ byId: {}, stage });
    return stage?.onProgramFailure((id, code, problem) =>
      useFailures.setState(({ byId }) => ({ byId: { ...byId, [id]: { code, problem } } })),
    );
  }, [stage]);
}

/** Error of a running program, with a way to start it again. */
export function useFailure(
  { id, code, kind }: Program,
  strands: readonly Pick<Strand, "id">[],
): (ProgramProblem & { restart?: () => void }) | undefined {
  const { byId, stage } = useFailures();
  const [message] = useResult(({ analysis, player }) =>
    strands.flatMap((one) => analysis.failures.get(one.id) ?? player.live?.failureOf(one.id) ?? []),
  );
  if (kind === "number") return message === undefined ? undefined : { line: 1, message };
  const failed = byId[id];
  if (!failed || failed.code !== code) return undefined;
  const restart = () => {
    useFailures.setState(({ byId: { [id]: _gone, ...rest } }) => ({ byId: rest }));
    stage?.restartProgram(id);
  };
  return { ...failed.problem, restart };
}
