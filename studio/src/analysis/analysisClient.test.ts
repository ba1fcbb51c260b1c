import type { StrandNumbers } from "@bumbrel/core/analyse/sceneAnalysis";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { beforeEach, describe, expect, it } from "@jest/globals";
import { AnalysisClient } from "./analysisClient";
import type { ToWorker } from "./messages";

let sent: ToWorker[];
let client: AnalysisClient;
let scene: Scene;
beforeEach(() => {
  sent = [];
  client = new AnalysisClient((message) => sent.push(message));
  scene = newScene("Quay");
  scene.strands.push(newStrand(scene, "a", "A", { kind: "nothing" }));
});

const numbers = (change: Partial<StrandNumbers> = {}) => ({
  kind: "strand" as const,
  numbers: {
    strandId: "a",
    request: 1,
    width: 1,
    raw: new Float32Array(4),
    shaped: new Float32Array(4),
    framesReady: 4,
    loopS: 0,
    cues: [],
    ...change,
  },
});

describe("the analysis client", () => {
  it("has a scene computed only when something its strands depend on has changed", () => {
    client.follow(scene);
    client.follow({ ...scene, objects: [...scene.objects, newObject("lantern", "sphere", "Lantern")] });
    expect(sent).toHaveLength(1);
    client.follow({ ...scene, strands: [...scene.strands] });
    client.follow({ ...scene, objects: [newObject("camera", "camera", "Camera")] });
    expect(sent.map(({ kind }) => kind)).toEqual(["scene", "scene", "scene"]);
    const last = sent[2];
    if (last.kind !== "scene") throw new Error("a scene was expected");
    expect(last.scene.objects.map(({ kind }) => kind)).toEqual(["camera"]);
  });

  it("hands numbers on when they are new or complete, and tells React of a strand's first only", () => {
    client.follow(scene);
    const shaped = new Float32Array(4);
    expect(client.receive(numbers({ shaped, framesReady: 2, cues: undefined }))).toEqual({
      tracks: true,
      shown: true,
    });
    expect(client.receive(numbers({ shaped, framesReady: 3, cues: undefined }))).toEqual({
      tracks: false,
      shown: false,
    });
    expect(client.receive(numbers({ shaped }))).toEqual({ tracks: true, shown: false });
    expect(client.traces.get("a")!.framesReady).toBe(4);
    expect(client.receive(numbers({ strandId: "gone" }))).toEqual({});
  });

  it("is complete when the worker has settled on the newest scene", () => {
    client.follow(scene);
    client.follow({ ...scene, strands: [...scene.strands] });
    let called = 0;
    client.afterTraces(() => called++);
    client.receive({ kind: "settled", scenes: 1 });
    expect([client.isComplete, called]).toEqual([false, 0]);
    client.receive({ kind: "settled", scenes: 2 });
    expect([client.isComplete, called]).toEqual([true, 1]);
    client.afterTraces(() => called++);
    expect(called).toBe(2);
    client.soundLoaded();
    expect(client.isComplete).toBe(false);
  });

  it("says why a strand has no numbers, keeps old ones while it waits, and forgets strands that are gone", () => {
    client.follow(scene);
    client.receive(numbers());
    const none = (why: Parameters<AnalysisClient["receive"]>[0] & { kind: "noStrand" }) =>
      client.receive(why);
    none({ kind: "noStrand", strandId: "a", request: 2, why: { kind: "waiting" } });
    expect(client.traces.has("a")).toBe(true);
    none({ kind: "noStrand", strandId: "a", request: 3, why: { kind: "failed", message: "It is gone." } });
    expect([client.traces.has("a"), client.failures.get("a")]).toEqual([false, "It is gone."]);
    client.receive(numbers({ request: 4 }));
    expect(client.failures.size).toBe(0);
    client.follow({ ...scene, strands: [] });
    expect(client.traces.size).toBe(0);
  });

  it("follows a gesture until another edit, and then no more", () => {
    client.follow(scene);
    const followed: string[] = [];
    client.followTraces("drag", (strandId) => followed.push(strandId));
    client.edited("drag");
    client.receive(numbers());
    client.edited(undefined);
    client.receive(numbers({ request: 2 }));
    expect(followed).toEqual(["a"]);
  });

  it("fills a spectrogram for its newest request only, and asks for curves once", () => {
    client.showSpectrogram("spine", "song", 48_000, { kind: "log", lowHz: 30, highHz: 16_000 }, 2048);
    const first = client.spectrograms.get("spine")!;
    expect(first.levels).toHaveLength(100 * 256);
    client.showSpectrogram("spine", "song", 48_000, { kind: "log", lowHz: 30, highHz: 16_000 }, 2048);
    expect(sent).toHaveLength(1);
    client.showSpectrogram("spine", "song", 48_000, { kind: "log", lowHz: 30, highHz: 16_000 }, 4096);
    const levels = new Uint8Array(2 * 256).fill(9);
    client.receive({ kind: "spectrogram", viewer: "spine", request: 1, firstFrame: 0, levels });
    expect(client.spectrograms.get("spine")!.framesReady).toBe(0);
    client.receive({ kind: "spectrogram", viewer: "spine", request: 2, firstFrame: 3, levels });
    expect(client.spectrograms.get("spine")!.framesReady).toBe(5);
    client.hideSpectrogram("spine");
    client.request("loudness", "song");
    client.request("loudness", "song");
    client.request("averageSpectrum", "song");
    expect(sent.slice(2).map(({ kind }) => kind)).toEqual(["stopSpectrogram", "loudness", "averageSpectrum"]);
  });
});
