import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { evaluateScene } from "@bumbrel/core/simulate/sceneState";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { beforeEach, describe, expect, it } from "@jest/globals";
import { ScenePlayer } from "./scenePlayer";
import type { Stage } from "./stage/stage";
import { FakeAudioContext, playable } from "./testing/fakeAudio";

/** A stage that only notes what it is asked to do. */
function notingStage() {
  const notes: string[] = [];
  const stage = {
    attach: () => notes.push("attach"),
    follow: () => notes.push("follow"),
    update: () => {},
    render: () => notes.push("render"),
    redraw: () => {},
    reachImage: () => undefined,
    onArrival: () => () => {},
    isLoaded: true,
    hasFeedback: false,
  };
  return { stage: stage as unknown as Stage, notes };
}

function playerWithKick() {
  const scene = newScene("Quay");
  scene.strands.push(newStrand(scene, "kick", "Kick", { kind: "sound", id: "song", tap: "before" }));
  const lantern = newObject("lantern", "sphere", "Lantern");
  scene.objects.push(lantern);
  scene.bindings.push(newBinding("b", "kick", lantern, "opacity"));
  const player = new ScenePlayer(scene);
  const tracks = new Map([
    ["kick", { width: 1, values: Float32Array.from({ length: 1000 }, (_, i) => (i % 50) / 50) }],
  ]);
  player.setTracks(tracks);
  player.transport.setSounds([playable("song", [new Float32Array(480_000)])]);
  return { scene, player, tracks };
}

beforeEach(() => {
  FakeAudioContext.made = [];
  FakeAudioContext.allowed = true;
  Object.assign(globalThis, { AudioContext: FakeAudioContext });
});

describe("ScenePlayer", () => {
  it("is not loaded while tracks are being computed again", async () => {
    const { player, tracks } = playerWithKick();
    expect(player.isLoaded).toBe(true);
    player.expectTracks();
    expect(player.isLoaded).toBe(false);
    let isTold = false;
    const told = player.whenLoaded().then(() => {
      isTold = true;
    });
    player.setTracks(tracks, false);
    await Promise.resolve();
    expect(isTold).toBe(false);
    player.setTracks(tracks);
    await told;
    player.dispose();
  });

  it("gives the values of a plain evaluation after any seek, paused or playing", () => {
    const { scene, player, tracks } = playerWithKick();
    for (const timeS of [0, 3.217, 0.5, 9.999, 7.0001]) {
      player.transport.seek(timeS);
      expect(player.currentValues()).toEqual(evaluateScene(scene, tracks, timeS));
    }
    player.transport.seek(2);
    player.transport.play();
    FakeAudioContext.made[0].pass(1.357);
    expect(player.currentValues()).toEqual(evaluateScene(scene, tracks, player.transport.positionS()));
    player.dispose();
  });

  it("draws every attached stage once a frame and tells those who watch", () => {
    const { player } = playerWithKick();
    const [first, second] = [notingStage(), notingStage()];
    const detach = player.attach(first.stage);
    player.attach(second.stage);
    const seen: number[] = [];
    const stop = player.onFrame((timeS) => seen.push(timeS));
    player.transport.seek(1.5);
    player.frame();
    detach();
    stop();
    player.frame();
    expect(first.notes).toEqual(["attach", "render"]);
    expect(second.notes).toEqual(["attach", "render", "render"]);
    expect(seen).toEqual([1.5]);
    expect(player.frameCostMs).toBeGreaterThan(0);
  });

  it("follows a changed scene and its loop", () => {
    const { scene, player } = playerWithKick();
    const { stage, notes } = notingStage();
    player.attach(stage);
    const changed = structuredClone(scene);
    changed.objects.push({
      ...newObject("ring", "box", "Ring"),
      settings: { formation: "ring" },
    });
    changed.loop = true;
    player.setScene(changed);
    expect(notes).toEqual(["attach", "follow"]);
    expect(player.transport.looping).toBe(true);
    expect(player.currentValues().ring.copies).toBe(24);
    expect(player.valueOf("ring", "copies")).toBe(24);
    expect(player.valueOf("gone", "copies")).toBe(0);
  });

  it("gives waveform drawings the samples of their sound, audible sounds first", () => {
    const { scene, player } = playerWithKick();
    const changed = structuredClone(scene);
    const file = (id: string, heard: boolean) =>
      ({ ...newSoundBasics(id, id), kind: "file", storedId: id, heard }) as const;
    changed.sounds.push(file("stem", false), file("song", true), { ...file("bell", true), loops: true });
    const samples = new Map(["song", "stem", "bell"].map((id) => [id, new Float32Array(48_000)]));
    player.setScene(changed);
    player.setSamples(samples);
    const { waves } = player;
    expect([...waves.keys()]).toEqual(["song", "bell", "stem"]);
    expect(waves.get("song")!.indexAt(0.25)).toBe(12_000);
    // One second long, it comes round.
    expect(waves.get("bell")!.indexAt(2.25)).toBeCloseTo(12_000, 6);
    expect(waves.get("bell")!.samples).toBe(samples.get("bell"));
  });

  it("shows any frame without an audio clock, and says when everything is loaded", async () => {
    const { scene, tracks } = playerWithKick();
    let timeS = 2.5;
    const player = new ScenePlayer(scene, { time: { positionS: () => timeS } });
    const { stage, notes } = notingStage();
    player.attach(stage);
    expect(player.isLoaded).toBe(false);
    const loaded = player.whenLoaded();
    player.setTracks(tracks, false);
    expect(player.isLoaded).toBe(false);
    player.setTracks(tracks);
    await loaded;
    expect(player.currentValues()).toEqual(evaluateScene(scene, tracks, 2.5));
    await player.showFrame(37, 30);
    expect(player.state.readAll()).toEqual(evaluateScene(scene, tracks, 37 / 30));
    expect(notes).toEqual(["attach", "render"]);
    timeS = 4;
    player.frame();
    expect(player.state.timeS).toBe(4);
  });

  it("reads strands on sounds that run by themselves where those are, and keeps that in the take", () => {
    const { scene, player, tracks } = playerWithKick();
    const changed = structuredClone(scene);
    changed.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "song", runs: "alone" });
    player.setScene(changed);
    const alone = { ...playable("song", [new Float32Array(480_000)]), runs: "alone" as const };
    player.transport.setSounds([alone]);
    const shown = () => player.currentValues().lantern.opacity;
    const expected = (timeS: number) => evaluateScene(scene, tracks, timeS).lantern.opacity;
    player.transport.seekUnit("song", 3.21);
    expect(shown()).toEqual(expected(3.21));
    player.transport.playUnit("song");
    FakeAudioContext.made[0].pass(0.5);
    // The tape stands at 0: only the sound has gone on.
    expect(player.transport.positionS()).toBe(0);
    const ownS = player.transport.unitPositionS("song");
    expect(ownS).toBeGreaterThan(3.6);
    expect(shown()).toBeCloseTo(expected(ownS) as number, 6);
    player.dispose();
  });

  it("leaves everything at rest until tracks arrive", () => {
    const { player } = playerWithKick();
    player.setTracks(new Map());
    player.transport.seek(0.4);
    expect(player.currentValues().lantern.opacity).toBe(1);
  });
});
