import { newBinding, newObject, newScene, newSoundBasics, newStrand } from "@bumbrel/core/scene/create";
import { evaluate } from "@bumbrel/core/scene/evaluate";
import { beforeEach, describe, expect, it } from "@jest/globals";
import { ScenePlayer } from "./scenePlayer";
import type { Stage } from "./stage/stage";
import { FakeAudioContext, playable } from "./testing/fakeAudio";

/** A stage that only notes what it is asked to do. */
function notingStage() {
  const notes: string[] = [];
  const applied: number[] = [];
  const stage = {
    setScene: () => notes.push("scene"),
    apply: (values: Float64Array) => applied.push(values[values.length - 1]),
    render: () => notes.push("render"),
  };
  return { stage: stage as unknown as Stage, notes, applied };
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
  it("gives the values of a plain evaluation after any seek, paused or playing", () => {
    const { scene, player, tracks } = playerWithKick();
    for (const timeS of [0, 3.217, 0.5, 9.999, 7.0001]) {
      player.transport.seek(timeS);
      expect(player.currentValues()).toEqual(evaluate(scene, tracks, timeS));
    }
    player.transport.seek(2);
    player.transport.play();
    FakeAudioContext.made[0].pass(1.357);
    expect(player.currentValues()).toEqual(evaluate(scene, tracks, player.transport.positionS()));
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
    expect(first.notes).toEqual(["scene", "render"]);
    expect(second.notes).toEqual(["scene", "render", "render"]);
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
    expect(notes).toEqual(["scene", "scene"]);
    expect(player.transport.looping).toBe(true);
    expect(player.currentValues().ring.copies).toBe(24);
    expect(player.valueOf("ring", "copies")).toBe(24);
    expect(player.valueOf("gone", "copies")).toBe(0);
  });

  it("lets what is drawn by a waveform follow its sound, the ones that are heard first", () => {
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

  it("tells stages whether something is heard that moves while the tape stands", () => {
    const { player } = playerWithKick();
    const told: unknown[] = [];
    const stage = {
      setScene: () => {},
      render: () => {},
      apply: (...all: unknown[]) => told.push(all.slice(1)),
    };
    player.attach(stage as unknown as Stage);
    player.transport.seek(1.25);
    player.frame();
    player.frame();
    expect(told).toEqual([
      [1.25, false],
      [1.25, false],
    ]);
  });

  it("leaves everything at rest until tracks arrive", () => {
    const { player } = playerWithKick();
    player.setTracks(new Map());
    player.transport.seek(0.4);
    expect(player.currentValues().lantern.opacity).toBe(1);
  });
});
