import { describe, expect, it } from "@jest/globals";
import { newAction, newAnswer, newCueSource } from "../action/answer";
import type { ObjectKind, RestValue, Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { newBinding, newObject, newScene } from "../kinds/create";
import { newSoundBasics } from "../sound/kinds";
import { checkMix, checkScene, checkSounds } from "./sceneChecks";

function quay(): Scene {
  const scene = newScene("Quay");
  scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "s" });
  Object.assign(scene.objects.find(({ kind }) => kind === "camera")!.rest, {
    position: [0, 0, 10],
    target: [0, 0, 0],
    fieldOfView: 45,
  });
  return scene;
}
function put(scene: Scene, id: string, kind: ObjectKind, rest: Record<string, RestValue>) {
  const object = { ...newObject(id, kind, id), rest };
  scene.objects.push(object);
  return object;
}
const strandOn = (scene: Scene, id: string) => {
  const strand = newStrand(scene, id, id, { kind: "sound", id: "song", tap: "before" });
  scene.strands.push(strand);
  return strand;
};
const codes = (scene: Scene, advice?: Parameters<typeof checkScene>[1]) =>
  checkScene(scene, advice).map(({ code, about }) => [code, about?.id]);

describe("checks of a scene", () => {
  it("find nothing where all is well", () => {
    const scene = quay();
    const lamp = put(scene, "lamp", "sphere", { position: [0, 0, 0] });
    strandOn(scene, "kick");
    scene.bindings.push(newBinding("b", "kick", lamp, "scale"));
    expect(checkScene(scene, () => [])).toEqual([]);
  });

  it("find strands that drive nothing, and give advice on those that do", () => {
    const scene = quay();
    const lamp = put(scene, "lamp", "sphere", { position: [0, 0, 0] });
    strandOn(scene, "kick");
    strandOn(scene, "idle");
    strandOn(scene, "off").muted = true;
    scene.bindings.push(newBinding("b", "kick", lamp, "scale"));
    const change = { window: { rangeDb: 40 } };
    const advice = (id: string) =>
      id === "kick" ? [{ code: "pinned" as const, text: "At its ceiling 38 % of the time.", change }] : [];
    const checks = checkScene(scene, advice);
    expect(checks.map(({ code }) => code)).toEqual(["strand-pinned", "strand-unconnected"]);
    expect(checks[0]).toMatchObject({
      what: 'The strand "kick": At its ceiling 38 % of the time',
      about: { kind: "strand", id: "kick" },
      change,
    });
  });

  it("find things that are never seen, but for those that strands or answers bring out", () => {
    const scene = quay();
    for (const id of ["lost", "bound", "answered"]) put(scene, id, "sphere", { visibility: 0 });
    put(scene, "clear", "sphere", { opacity: 0 });
    strandOn(scene, "kick");
    const bound = scene.objects.find(({ id }) => id === "bound")!;
    scene.bindings.push(newBinding("b", "kick", bound, "visibility"));
    scene.answers.push(
      newAnswer("a", "Show it", newCueSource("tap"), [
        newAction("show", { objectId: "answered", does: "show", lasts: "stays" }),
      ]),
    );
    expect(codes(scene)).toEqual([
      ["never-visible", "lost"],
      ["never-visible", "clear"],
    ]);
  });

  it("find objects that an upright picture cuts off, by the camera's own field of view", () => {
    // At 10 m a view of 45° reaches 4.14 m from the middle along the shorter side: 7.36 m to each side across.
    const seen = (x: number, budget: Scene["budget"] = "phone") => {
      const scene = quay();
      scene.budget = budget;
      put(scene, "lamp", "sphere", { position: [x, 0, 0] });
      return codes(scene);
    };
    expect(seen(0)).toEqual([]);
    expect(seen(4)).toEqual([]);
    expect(seen(4.3)).toEqual([["outside-upright", "lamp"]]);
    expect(seen(-7.2)).toEqual([["outside-upright", "lamp"]]);
    // Nobody turns a desktop upright.
    expect(seen(4.3, "desktop")).toEqual([]);
    // In neither it is left out on purpose, or comes in later.
    expect(seen(7.6)).toEqual([]);
    const row = quay();
    put(row, "row", "sphere", { position: [0, 0, 0], copies: 9, spacing: 1.5 }).settings = {
      formation: "row",
    };
    expect(codes(row)).toEqual([]);
  });

  it("tell of a group as one, and of many things in one line", () => {
    const scene = quay();
    scene.budget = "phone";
    put(scene, "boat", "group", { position: [5, 0, 0] });
    for (const id of ["hull", "mast"]) put(scene, id, "box", { position: [0, 0, 0] }).parentId = "boat";
    for (const id of ["a", "b", "c", "d", "e"]) put(scene, id, "sphere", { position: [-5, 0, 0] });
    const [check, ...none] = checkScene(scene);
    expect(none).toEqual([]);
    expect(check.what).toBe('Upright (9:16) the picture leaves out "boat", "a", "b", "c" and 2 more');
  });

  it("say what refers to a missing thing", () => {
    const scene = quay();
    strandOn(scene, "kick");
    scene.bindings.push(newBinding("b", "kick", put(scene, "lamp", "sphere", {}), "scale"));
    scene.strands[0].listensTo = { kind: "nothing" };
    scene.bindings[0].strandId = "gone";
    const checks = checkScene(scene);
    expect(checks.some(({ about }) => about?.kind === "object" && about.id === "lamp")).toBe(true);
    expect(checks.some(({ about }) => about?.kind === "strand" && about.id === "kick")).toBe(true);
  });
});

describe("what is noticed about a mix", () => {
  const mix = (peakDb: number, lufs: number) => ({ truePeak: 10 ** (peakDb / 20), lufs });

  it("is nothing while it stays below the highest peak, and no target is asked for", () => {
    expect(checkMix(mix(-1.1, -5), "none")).toEqual([]);
    expect(checkMix({ truePeak: 0, lufs: Number.NEGATIVE_INFINITY }, "web")).toEqual([]);
  });

  it("reports a peak that would clip, with the gain that mends it", () => {
    const [{ code, what, gainDb }] = checkMix(mix(0.4, -12), "none");
    expect(code).toBe("mix-peak");
    expect(what).toContain("0.4 dBTP, above −1");
    expect(0.4 + gainDb!).toBeCloseTo(-1.1, 6);
  });

  it("is a loudness off its target, raised only as far as the peaks let it", () => {
    const [loud] = checkMix(mix(-2, -10), "web");
    expect(loud.what).toContain("−10.0 LUFS, 4 LU above −14");
    expect(loud.gainDb).toBeCloseTo(-4, 6);
    const [soft] = checkMix(mix(-9, -20), "web");
    expect(soft.gainDb).toBeCloseTo(6, 6);
    const [tight] = checkMix(mix(-3, -20), "web");
    expect(tight.gainDb).toBeUndefined();
    expect(tight.remedy).toContain("no room");
    expect(checkMix(mix(-3, -14.9), "web")).toEqual([]);
  });
});

describe("what is noticed about sounds", () => {
  const scene = newScene("Harbour");
  for (const id of ["long", "short", "call", "looped", "unheard"])
    scene.sounds.push({
      ...newSoundBasics(id, id),
      kind: "file",
      storedId: id,
      loops: id === "looped",
      heard: id !== "unheard",
    } as Scene["sounds"][number]);

  it("is one that ends before the tape does, unless it loops, is not heard, or is short by nature", () => {
    const lengths: Record<string, number> = { long: 48, short: 40, call: 9, looped: 3, unheard: 2 };
    const found = checkSounds(scene, ({ id }) => ({ durationS: lengths[id] }));
    expect(found.map(({ code, about }) => [code, about?.id])).toEqual([["sound-ends-early", "short"]]);
    expect(found[0].what).toContain("8.0 s before the tape does");
    expect(checkSounds(scene, () => undefined)).toEqual([]);
  });

  it("is a file that makes pages large", () => {
    const found = checkSounds(scene, ({ id }) => ({ bytes: id === "long" ? 60e6 : 1e6 }));
    expect(found.map(({ code, about }) => [code, about?.id])).toEqual([["sound-large", "long"]]);
    expect(found[0].what).toContain("60 MB");
  });
});
