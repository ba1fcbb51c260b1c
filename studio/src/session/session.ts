import type { LoadedProject } from "@bumbrel/api/contracts";
import { runScriptsIn } from "@bumbrel/core/analyse/scripts/scriptThread";
import { takeKeep } from "@bumbrel/core/document/versions/keeps";
import { Meters } from "@bumbrel/player/audio/meters";
import { LiveSounds } from "@bumbrel/player/live/liveSounds";
import { playerHandle } from "@bumbrel/player/playerHandle";
import { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { nanoid } from "nanoid";
import workletUrl from "../../../player/src/audio/processors.ts?worker&url";
import strandsUrl from "../../../player/src/live/strands.worker.ts?worker&url";
import scriptsUrl from "../../../player/src/scripts/scripts.worker.ts?worker&url";
import { AnalysisClient } from "../analysis/analysisClient";
import type { FromWorker, ToWorker } from "../analysis/messages";
import { api, saveFailureOf } from "../api/client";
import { watchProject } from "../api/watchProject";
import { DocumentStore } from "../document/documentStore";
import { browserDrafts, DraftKeeper } from "../document/drafts";
import type { Arrivals } from "../library/arrivals";
import { SoundLibrary } from "../library/soundLibrary";
import { Audition, type Tunings } from "./audition";
import { makeArrivals } from "./importing";
import { NumbersNow } from "./numbersNow";
import { Playback } from "./playback";
import { ProgramPermission } from "./programPermission";
import { Results } from "./results";

/** The parts of an open project. Components get the one they need from a hook of `context.ts`. */
export interface Session {
  readonly projectId: string;
  readonly document: DocumentStore;
  readonly player: ScenePlayer;
  readonly playback: Playback;
  readonly numbers: NumbersNow;
  readonly library: SoundLibrary;
  readonly analysis: AnalysisClient;
  readonly audition: Audition;
  readonly arrivals: Arrivals;
  readonly meters: Meters;
  readonly programs: ProgramPermission;
  readonly results: Results;
  /** The tunings as they were when the project was opened. */
  readonly opened: Tunings;
  /** Closes the project; what is not saved is saved. */
  dispose(): void;
}

runScriptsIn(() => new Worker(scriptsUrl, { type: "module" }));

/** Opens a project: wires its document, sounds, analysis, audition and player together. */
export function openSession(project: LoadedProject): Session {
  const worker = new Worker(new URL("../analysis/analysis.worker.ts", import.meta.url), { type: "module" });
  const send = (message: ToWorker) => worker.postMessage(message);
  const results = new Results();
  const library = new SoundLibrary(project.facts, send);
  const analysis = new AnalysisClient(send);
  const store = new DocumentStore(
    {
      scene: project.scene,
      revision: project.revision,
      load: async () => {
        const newest = await api.project(project.id);
        library.know(newest.facts);
        return newest;
      },
      save: (revision, scene, names) => api.saveScene(project.id, revision, scene, names),
      failureOf: saveFailureOf,
      newId: nanoid,
      onEdit: (gesture) => analysis.edited(gesture),
    },
    new DraftKeeper(project.id, browserDrafts),
  );
  const programs = new ProgramPermission(project.id, project.programsAllowed, () => {
    playback.follow();
    results.notify();
  });
  const player = new ScenePlayer(programs.allowedPart(project.scene), {
    live: (transport) => new LiveSounds(transport, { worklet: workletUrl, worker: strandsUrl }),
  });
  player.setTracks(new Map(), false);
  const audition = new Audition(player, (what) => {
    if (what === "mix") playback.playSounds();
    if (what === "scene") playback.follow();
    results.notify();
  });
  const playback = new Playback({ document: store, player, library, analysis, audition, programs });
  const meters = new Meters(player.transport, workletUrl);
  player.onFrame(() => meters.update(performance.now()));
  player.live?.onChange(results.notify);
  const arrivals = makeArrivals(project.id, store, library);

  worker.addEventListener("message", ({ data }: MessageEvent<FromWorker>) => {
    if (data.kind === "loading" || data.kind === "loaded" || data.kind === "soundFailed") {
      if (library.receive(data)) playback.soundLoaded();
      results.notify();
      return;
    }
    const { tracks, shown } = analysis.receive(data);
    if (tracks) playback.tracksChanged();
    if (shown) results.notify();
  });
  const stopWatching = watchProject(
    project.id,
    (revision) => void store.changedElsewhere(revision ?? "gone"),
  );
  const warnUnsaved = (event: BeforeUnloadEvent) => {
    if (store.isBehind || arrivals.isBusy) event.preventDefault();
  };
  const saveWhenHidden = () => {
    if (document.visibilityState === "hidden") void store.flush();
  };
  addEventListener("beforeunload", warnUnsaved);
  document.addEventListener("visibilitychange", saveWhenHidden);
  store.store.subscribe(({ scene }, before) => {
    if (scene !== before.scene) playback.follow();
  });
  playback.follow();
  player.start();
  window.bumbrel = playerHandle(player);

  return {
    projectId: project.id,
    document: store,
    player,
    playback,
    numbers: new NumbersNow(store, player, library, analysis),
    library,
    analysis,
    audition,
    arrivals,
    meters,
    programs,
    results,
    opened: takeKeep(project.scene, "opened", "As it was opened"),
    dispose: () => {
      stopWatching();
      arrivals.dispose();
      store.dispose();
      worker.terminate();
      meters.dispose();
      audition.dispose();
      player.dispose();
      removeEventListener("beforeunload", warnUnsaved);
      document.removeEventListener("visibilitychange", saveWhenHidden);
    },
  };
}
