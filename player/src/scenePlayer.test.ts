import { newBinding, newObject, newScene, newStrand } from "@bumbrel/core/scene/create";
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
    changed.objects.push(newObject("ring", "ring", "Ring"));
    changed.loop = true;
    player.setScene(changed);
    expect(notes).toEqual(["scene", "scene"]);
    expect(player.transport.looping).toBe(true);
    expect(player.currentValues().ring.count).toBe(24);
    expect(player.valueOf("ring", "count")).toBe(24);
    expect(player.valueOf("gone", "count")).toBe(0);
  });

  it("leaves everything at rest until tracks arrive", () => {
    const { player } = playerWithKick();
    player.setTracks(new Map());
    player.transport.seek(0.4);
    expect(player.currentValues().lantern.opacity).toBe(1);
  });
});
