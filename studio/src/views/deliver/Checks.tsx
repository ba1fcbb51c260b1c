import {
  checkConnections,
  checkMix,
  checkObjects,
  checkSounds,
  checkStrands,
  LOUDNESS_TARGETS,
  type LoudnessTarget,
  type SceneCheck,
} from "@bumbrel/core/check/sceneChecks";
import { weigh } from "@bumbrel/core/check/weight";
import type { Scene } from "@bumbrel/core/document/scene";
import { BUDGETS } from "@bumbrel/core/document/scene";
import { isStored, type Sound } from "@bumbrel/core/sound/kinds";
import type { LookedThrough } from "@bumbrel/player/film/lookThrough";
import { useQueries } from "@tanstack/react-query";
import { CircleAlert, CircleCheck } from "lucide-react";
import { useMemo } from "react";
import { useNavigate } from "react-router";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { useShallow } from "zustand/react/shallow";
import { api } from "../../api/client";
import {
  useEditing,
  useLibrary,
  useProjectId,
  useResult,
  useScene,
  useWholeScene,
} from "../../session/context";
import { changeMix } from "../../session/edits/sounds";
import { applyShaping } from "../../session/edits/strands";
import { useUi } from "../../session/viewState";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/fields/Choice";
import { useLookedThrough } from "./lookingThrough";

/** Everything noticed about the scene, where it is and how to mend it. */
export function Checks() {
  const editing = useEditing();
  const projectId = useProjectId();
  const scene = useWholeScene();
  // Advice on strands arrives as they are analysed.
  const advice = useResult(({ analysis: { traces } }) =>
    scene.strands.map(({ id }) => traces.get(id)?.advice),
  );
  const objects = useMemo(() => checkObjects(scene), [scene]);
  const factsOf = useSoundFacts();
  const target = useTarget((state) => state.loudness);
  const looked = useLookedThrough(useShallow(({ projectId, result }) => ({ projectId, result })));
  const result = looked.projectId === projectId ? looked.result : undefined;
  const checks = [
    ...checkConnections(scene),
    ...checkStrands(scene, (id) => advice[scene.strands.findIndex((one) => one.id === id)]),
    ...objects,
    ...checkSounds(scene, factsOf),
    ...(result ? [...checkMix(result, target), ...checkLooked(scene, result)] : []),
  ];
  const { bindings, strands } = scene;
  return (
    <section aria-label="Checks">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 pb-2">
        <h2 className="grow text-2xl font-semibold">Checks</h2>
        <span className="flex items-center gap-2 text-sm">
          <span className="text-mist">Meant for a</span>
          <Choice
            label="Meant for"
            title="What the scene must be light enough for."
            value={scene.budget}
            choices={BUDGETS}
            onChange={(budget) =>
              editing.edit("choose what it is meant for", (draft) => {
                draft.budget = budget;
              })
            }
          />
        </span>
        <span className="flex items-center gap-2 text-sm">
          <span className="text-mist">Loudness</span>
          <Choice
            label="Loudness"
            title="What the mix should be as loud as, in LUFS."
            value={target}
            choices={TARGET_CHOICES}
            onChange={(loudness) => useTarget.setState({ loudness })}
          />
        </span>
      </div>
      {checks.length === 0 ? (
        <p className="flex items-center gap-2 text-mist">
          <CircleCheck size={18} aria-hidden className="text-brass" />
          Everything connects: {bindings.length} {bindings.length === 1 ? "binding" : "bindings"} from{" "}
          {strands.length} {strands.length === 1 ? "strand" : "strands"}.
        </p>
      ) : (
        <ul className="grid">
          {checks.map((check) => (
            <Row key={`${check.code} ${check.where}`} check={check} />
          ))}
        </ul>
      )}
    </section>
  );
}

const TARGET_CHOICES = (Object.keys(LOUDNESS_TARGETS) as LoudnessTarget[]).map((name) => {
  const lufs = LOUDNESS_TARGETS[name];
  return [
    name,
    lufs === undefined ? "no target" : `${name}, ${String(lufs).replace("-", "−")} LUFS`,
  ] as const;
});

/** How loud the mix is meant to be, as chosen last in this browser. */
const useTarget = create(
  persist<{ loudness: LoudnessTarget }>(() => ({ loudness: "none" }), { name: "bumbrel-loudness-target" }),
);

/** Findings from drawing the whole tape. */
function checkLooked(scene: Scene, { weight, programFailures }: LookedThrough): SceneCheck[] {
  return [
    ...weigh({ ...weight, scriptMs: 0 }, scene.budget).map((finding) => ({
      ...finding,
      about: undefined,
      change: undefined,
    })),
    ...[...programFailures].map(([id, message]) => ({
      code: "program-fails",
      what: `The program “${scene.programs.find((one) => one.id === id)?.name ?? id}” fails: ${message.replace(/\.$/, "")}`,
      where: id,
      remedy: "Its last version that worked goes on; mend it in the Stage view",
      about: { kind: "program" as const, id },
      change: undefined,
    })),
  ];
}

/** Length and bytes of the sounds that are stored. */
function useSoundFacts() {
  const library = useLibrary();
  const storedIds = useScene(({ sounds }) =>
    sounds.flatMap((sound) => (isStored(sound) ? [sound.storedId] : [])),
  );
  const known = useQueries({
    queries: [...new Set(storedIds)].map((id) => ({
      queryKey: ["sound", id],
      queryFn: () => api.sound(id),
      staleTime: Number.POSITIVE_INFINITY,
    })),
  });
  const bytes = new Map(known.flatMap(({ data }) => (data ? [[data.id, data.byteLength] as const] : [])));
  return (sound: Sound) =>
    isStored(sound)
      ? { durationS: library.facts.get(sound.storedId)?.durationS, bytes: bytes.get(sound.storedId) }
      : undefined;
}

function Row({ check }: { check: SceneCheck }) {
  const projectId = useProjectId();
  const editing = useEditing();
  const look = useUi((state) => state.look);
  const navigate = useNavigate();
  const { what, remedy, about, change, gainDb } = check;
  const strand = useScene((scene) => scene.strands.find(({ id }) => id === about?.id));
  const show = () => {
    if (!about) return;
    const { kind, id } = about;
    const chosen =
      kind === "strand"
        ? { strandId: id }
        : kind === "object"
          ? { objectIds: [id] }
          : kind === "program"
            ? {
                objectIds: editing.scene.objects
                  .filter(({ settings }) => settings.programId === id)
                  .map((one) => one.id),
              }
            : { openSoundId: id };
    look(projectId, chosen);
    const view = kind === "strand" ? "strands" : kind === "sound" ? "sounds" : "stage";
    navigate(`/projects/${projectId}/${view}`);
  };
  return (
    <li className="flex items-start gap-3 border-t border-rule py-2 last:border-b">
      <CircleAlert size={18} aria-hidden className="mt-0.5 shrink-0 text-alarm" />
      <span className="grow">
        {what}. <span className="text-mist">{remedy}.</span>
      </span>
      {change && strand && (
        <Button
          className="text-sm"
          aria-label={`Do it: ${what}`}
          onClick={() => applyShaping(editing, strand, `take advice on ${strand.name}`, change)}
        >
          Do it
        </Button>
      )}
      {gainDb !== undefined && (
        <Button className="text-sm" aria-label={`Do it: ${what}`} onClick={() => changeMix(editing, gainDb)}>
          Do it
        </Button>
      )}
      {about && (
        <Button className="text-sm" aria-label={`Show it: ${what}`} onClick={show}>
          Show it
        </Button>
      )}
    </li>
  );
}
