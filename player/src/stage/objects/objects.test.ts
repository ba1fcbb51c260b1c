import type { Asset, ObjectKind, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { modelPartProperties } from "@bumbrel/core/kinds/modelParts";
import { programKindOf } from "@bumbrel/core/kinds/programKinds";
import { PROGRAMMED_KINDS } from "@bumbrel/core/kinds/shelves/programmed";

import { can, OBJECT_KIND_NAMES, propertiesOf, propertyOf } from "@bumbrel/core/kinds/table";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { settingsThatUse } from "@bumbrel/core/testing/settings";
import { describe, expect, it } from "@jest/globals";
import {
  BoxGeometry,
  Group,
  type InstancedMesh,
  Matrix4,
  Mesh,
  PerspectiveCamera,
  Quaternion,
  Texture,
  Vector3,
} from "three";
import { StageAssets } from "../assets";
import type { ImageLayer } from "../image/imageLayer";
import type { Drawing } from "../programs/drawing";
import type { StagePrograms } from "../programs/stagePrograms";
import { type DrawnParts, ObjectSource, type RenderedObject } from "../renderedObject";
import { renderObject } from "./table";

/** Images and models that are there at once. */
class ReadyAssets extends StageAssets {
  private readonly ready = new Texture();
  private readonly boat = new Group().add(
    Object.assign(new Mesh(new BoxGeometry(1, 2, 3)), { name: "Hull" }),
    Object.assign(new Mesh(new BoxGeometry(0.1, 4, 0.1)), { name: "Mast" }),
  );
  override picture = () => this.ready;
  override model = () => this.boat;
  /** Programs without a graphics card: what they are given, and where it goes. */
  override programs = () => {
    const layer = (): ImageLayer => ({ fragment: "", uniforms: {}, readsDepth: false, amount: { value: 0 } });
    const used = () => ({ code: layer(), uniforms: {}, follow() {} });
    return { over: layer, pass: used } as unknown as StagePrograms;
  };
  override drawing = () => ({ texture: this.ready, show() {}, dispose() {} }) as unknown as Drawing;
}
const ASSETS: Asset[] = [
  { kind: "picture", id: "p", name: "Sail", storedId: "p", widthPx: 300, heightPx: 100 },
  { kind: "model", id: "m", name: "Boat", storedId: "m", parts: ["Hull", "Mast"], triangles: 24 },
];

/** At this time there are wakes, trails and particles. */
const NOW_S = 3;
const frames = (value: (frame: number) => number) => Float32Array.from({ length: 600 }, (_, i) => value(i));
const TONE = Float32Array.from({ length: 48_000 * 4 }, (_, i) => Math.sin(i / 20));
const SWELL = frames((i) => 0.5 + 0.5 * Math.sin(i / 9));

/** Puts one object on a stage of its own, with what it needs around it, and gives a way to set the strand "s". */
function put(
  kind: ObjectKind,
  rest: Record<string, RestValue> = {},
  settings: Record<string, SettingValue> = {},
  bound: readonly string[] = [],
  more: (scene: Scene, object: StageObject) => void = () => {},
) {
  const scene: Scene = newScene("Quay");
  for (const id of ["s", "half", "swell"]) scene.strands.push(newStrand(scene, id, id, { kind: "nothing" }));
  scene.assets = ASSETS;
  const own = settings.modelId === "m" ? { own: modelPartProperties(["Hull", "Mast"]) } : {};
  const object: StageObject = { ...newObject("thing", kind, "Thing"), rest, settings, ...own };
  scene.objects = [object];
  if (kind in PROGRAMMED_KINDS) {
    object.settings = { ...settings, programId: "code", ...(kind === "drawing" && { unlit: false }) };
    scene.programs = [{ id: "code", name: "Code", kind: programKindOf(kind), code: "", draft: null }];
  }
  if (kind === "group") {
    scene.objects.push({ ...newObject("seen", "sphere", "In it"), parentId: "thing" });
  }
  if (kind === "material") {
    scene.objects.push({
      ...newObject("seen", "box", "Uses it"),
      settings: { materialId: "thing", formation: "row" },
    });
  }
  scene.bindings = bound.map((property) => newBinding(`b-${property}`, "s", object, property));
  more(scene, object);
  const state = new SceneState(scene);
  state.setWaves(new Map([["tone", { samples: TONE, indexAt: (timeS: number) => timeS * 48_000 }]]));
  const assets = new ReadyAssets();
  const all = scene.objects.map(({ id }) => {
    const rendered = renderObject(new ObjectSource(state.plan.of(id)!, state, assets));
    return { id, rendered };
  });
  const camera = new PerspectiveCamera();
  const at = (strandValue: number, timeS = NOW_S) => {
    const cues = [{ timeS: timeS - 0.05, strength: strandValue }];
    state.setTracks(
      new Map([
        ["s", { width: 1, values: Float32Array.of(strandValue), cues }],
        ["half", { width: 1, values: Float32Array.of(0.5) }],
        ["swell", { width: 1, values: SWELL }],
      ]),
    );
    state.advanceTo(timeS);
    for (const { rendered } of all) {
      rendered.update({ values: state.values, timeS, camera, isSoft: false });
    }
  };
  at(0);
  const seen = all.find(({ id }) => id === "seen") ?? all[0];
  return { rendered: all[0].rendered, seen: seen.rendered, at, state, all };
}

/** Every matrix of a body's copies, taken apart. */
function copiesOf({ root }: RenderedObject) {
  const mesh = root.children[0] as InstancedMesh;
  return Array.from({ length: mesh.count }, (_, i) => {
    const matrix = new Matrix4();
    mesh.getMatrixAt(i, matrix);
    const [position, turn, scale] = [new Vector3(), new Quaternion(), new Vector3()];
    matrix.decompose(position, turn, scale);
    return { position, facing: new Vector3(0, 0, 1).applyQuaternion(turn), scale };
  });
}

/** Settings that some properties need beside them to be seen: many enough for a cap, colours that differ from glow. */
const BESIDE: Record<string, Record<string, RestValue>> = {
  cap: { cap: 20, rate: 200 },
  wakeCap: { wakeCap: 2, wakeRate: 20 },
  emissionColour: { emissionStrength: 1 },
  lineColour: { lineGlow: 1 },
};
/** Properties that show in what else is driven: by how much, or how much later. */
const VARIES = ["copyDelay", "copyDelayBeats", "valueSpread"];

const PROPERTIES = OBJECT_KIND_NAMES.flatMap((kind) =>
  Object.entries(propertiesOf({ kind })).map(([key, property]) => [kind, key, property] as const),
);

const words = (text: string) => text.split(" ");
const PLACED = words("position rotation scale spin");
const FORMED = words(
  "climb copyDelay copyDelayBeats copyScale copyShift copyTurn placeSpread reach scaleSpread shapeSpread spacing sweep valueSpread",
);
const SIZED = words("depth growth height radius size wakeDrift wakeGrowth width");
const LIT = words("emissionColour emissionStrength opacity");
const ALL_OF_A_BODY = words(
  "clearcoat clearcoatRoughness colours emissionFalloff filmThickness glows gradientAmount gradientShift iridescence matrices metalness refraction reveal revealSoftness rounding roughness sheen sheenColour shown thickness tiling transmission tube tubeRadius tubeTaper",
);

/** Kinds that are not drawn at all. */
const UNSEEN: readonly ObjectKind[] = ["zone", "viewpoint", "world"];

/** Which numbers are sent to be drawn because of a property; without an entry those that have its own name. */
function expectedParts(kind: ObjectKind, key: string): string[] {
  const { surface, copies, shared, holdsObjects } = can(kind);
  if (propertyOf({ kind }, key)?.unseen || UNSEEN.includes(kind)) return [];
  const isBody = surface || shared || holdsObjects;
  const isDots = kind === "particles";
  if (kind === "camera" && key !== "fieldOfView") {
    return [
      ...(key === "target" ? ["target"] : ["position"]),
      ...(/^orbit/.test(key) ? ["orbit"] : []),
      "quaternion",
    ].sort();
  }
  if (kind === "torus" && key === "radius") return ["matrices", "tube"];
  if (kind === "tube" && key === "tube") return ["tubeRadius"];
  if (kind === "water" && key === "waveLength") return ["waveLength", "wavePhase"];
  if (kind === "water" && key === "waveSpeed") return ["wavePhase"];
  if (isBody) {
    if (key === "visibility") {
      return [...ALL_OF_A_BODY, "hidden", ...(kind === "drawing" ? ["fade"] : [])].sort();
    }
    if ([...PLACED, ...FORMED, ...SIZED].includes(key)) return ["matrices"];
    if (["copies", "wakeCap", "wakeRate"].includes(key)) return ["colours", "glows", "matrices"];
    if (["colour", "hueSpread"].includes(key)) return ["colours"];
    if ([...LIT, "wakeFade", "wakeLife"].includes(key)) return ["glows"];
    return [key];
  }
  if (kind === "orbits") {
    if (key === "visibility")
      return words("colours hidden matrices places trailColours trailOpacities trailPlaces");
    if (PLACED.includes(key)) return ["matrices"];
    if (key === "bodies") return words("colours places trailColours trailOpacities trailPlaces");
    if (key === "trail") return words("trailColours trailOpacities trailPlaces");
    if (key === "opacity") return words("colours trailOpacities");
    if (/^trail/.test(key)) return ["trailColours"];
    if (key === "bodySize") return words("places trailColours");
    return [...LIT, "colour"].includes(key) ? words("colours trailColours") : words("places trailPlaces");
  }
  if (isDots) {
    if (key === "softness") return ["softness"];
    if (key === "visibility") return words("colours hidden places softness");
    if ([...LIT, "colour", "middleColour", "endColour", "glow"].includes(key)) return ["colours"];
    // As many dots as before, or more and fewer.
    const isCount = ["bodies", "trail", "burst", "cap", "life", "rate"].includes(key);
    return isCount ? ["colours", "places"] : ["places"];
  }
  const isDrawing = copies === "always" || kind === "waveform" || kind === "ribbon";
  if (isDrawing) {
    if (key === "visibility") return ["colours", "hidden", "matrices", "positions"];
    if (PLACED.includes(key)) return ["matrices"];
    if ([...LIT, "colour"].includes(key)) return ["colours"];
    // As many triangles as before, or more and fewer: a whole circle has one more than an open one.
    const isCount = ["copies", "trail", "lasting"].includes(key) || (kind === "spectrum" && key === "bend");
    return isCount ? ["colours", "positions"] : ["positions"];
  }
  return [key];
}

/** Parts of all that is drawn which differ between two states. */
function changedParts(before: DrawnParts[], after: DrawnParts[]): string[] {
  const names = new Set<string>();
  for (const [i, parts] of before.entries()) {
    for (const name of new Set([...Object.keys(parts), ...Object.keys(after[i])])) {
      if (JSON.stringify(parts[name]) !== JSON.stringify(after[i][name])) names.add(name);
    }
  }
  return [...names].sort();
}

describe("every declared property", () => {
  it.each(PROPERTIES)(
    "of a %s: a binding of %s changes what it is for, and nothing else",
    (kind, key, property) => {
      const settings = {
        ...settingsThatUse(kind, property),
        ...(kind === "model" && { modelId: "m" }),
        ...(key === "tiling" && { textureId: "p" }),
      };
      const { at, all } = put(kind, BESIDE[key] ?? {}, settings, [key], (scene, object) => {
        if (!VARIES.includes(key)) return;
        const shown = kind === "group" ? "copyShift" : "growth";
        const strand = key === "valueSpread" ? "half" : "swell";
        scene.bindings.push({
          ...newBinding("beside", strand, object, shown),
          output: { kind: "range", low: 0, high: 5 },
        });
      });
      const drawn = () => all.map(({ rendered }) => rendered.drawnParts());
      const rest = drawn();
      at(1);
      const driven = drawn();
      expect(changedParts(rest, driven)).toEqual(expectedParts(kind, key));
      expect(driven.flatMap(Object.values).flat().every(Number.isFinite)).toBe(true);
      at(0);
      // As text: Jest takes longer to compare long lists than all the rest of the test.
      expect(JSON.stringify(drawn())).toBe(JSON.stringify(rest));
      for (const { rendered } of all) rendered.dispose();
    },
  );
});

/** Value that three.js draws for a property. */
function shownFor(rendered: RenderedObject, property: string): number[] {
  const size = () => rendered.read("drawnSize") as number[];
  // A sphere of radius 0.5, drawn without a scale, is one metre wide; a box at rest is a cube of one metre.
  if (property === "radius") return [size()[0] / 2];
  if (property === "scale" || property === "size") return size();
  if (property === "height" || property === "growth") return [size()[1]];
  return [rendered.read(property)].flat() as number[];
}

describe("rendered objects", () => {
  it.each<[ObjectKind, string]>([
    ["sphere", "radius"],
    ["sphere", "scale"],
    ["sphere", "position"],
    ["box", "size"],
    ["box", "rotation"],
    ["box", "growth"],
    ["box", "colour"],
    ["box", "emissionStrength"],
    ["cylinder", "height"],
    ["cone", "opacity"],
    ["plane", "roughness"],
    ["pointLight", "intensity"],
    ["spotLight", "angle"],
    ["camera", "fieldOfView"],
    ["lens", "bloom"],
  ])("a %s shows its %s as it was evaluated", (kind, property) => {
    const { rendered, at, state } = put(kind, { emissionColour: "#ffffff" }, {}, [property]);
    for (const value of [0, 0.6, 1]) {
      at(value);
      const slot = state.plan.slot("thing", property)!;
      const shown = shownFor(rendered, property);
      shown.forEach((x, i) => {
        expect(x).toBeCloseTo(state.values[slot.offset + i], 4);
      });
    }
  });

  it("knows nothing of properties it does not have", () => {
    expect(put("box").rendered.read("wings")).toBeUndefined();
  });

  it("stands a box on its base, its centre or a corner", () => {
    const middle = (anchor: string) =>
      copiesOf(
        put("box", { position: [1, 2, 3], size: [2, 4, 6] }, { anchor }).rendered,
      )[0].position.toArray();
    expect(middle("base")).toEqual([1, 4, 3]);
    expect(middle("centre")).toEqual([1, 2, 3]);
    expect(middle("corner")).toEqual([2, 4, 6]);
  });

  it("places a ring's copies on their bases, facing outwards", () => {
    const rest = { copies: 12, reach: 3, size: [0.2, 1.5, 0.4] as [number, number, number], growth: 2 };
    for (const { position, facing, scale } of copiesOf(put("box", rest, { formation: "ring" }).rendered)) {
      expect(Math.hypot(position.x, position.z)).toBeCloseTo(3, 5);
      expect(position.y).toBeCloseTo(1.5, 5);
      expect(facing.dot(new Vector3(position.x, 0, position.z).normalize())).toBeCloseTo(1, 5);
      expect(scale.toArray().map((one) => Math.round(one * 1e4) / 1e4)).toEqual([0.2, 3, 0.4]);
    }
  });

  it("holds from 1 to 4096 copies, and shows an image in its own proportions", () => {
    expect(copiesOf(put("box", { copies: 1 }, { formation: "grid" }).rendered)).toHaveLength(1);
    expect(copiesOf(put("box", { copies: 4096 }, { formation: "grid" }).rendered)).toHaveLength(4096);
    const [{ scale }] = copiesOf(put("picture", { height: 2 }, { pictureId: "p" }).rendered);
    expect([scale.x, scale.y]).toEqual([6, 2]);
  });

  it("shows a model whole, or one part of it", () => {
    expect(put("model", {}, { modelId: "m" }).rendered.root.children).toHaveLength(2);
    expect(put("model", {}, { modelId: "m", part: "Mast" }).rendered.root.children).toHaveLength(1);
    expect(put("model", {}, { modelId: "m", part: "Keel" }).rendered.root.children).toHaveLength(0);
  });

  it("shows and hides the parts of a model by properties of the object's own", () => {
    const { rendered, at } = put("model", {}, { modelId: "m" }, ["part:Mast"], (_scene, object) => {
      expect(object.own).toBeDefined();
    });
    const shown = () => rendered.drawnParts().shown;
    at(0);
    expect(shown()).toEqual([1, 0]);
    at(1);
    expect(shown()).toEqual([1, 1]);
  });

  it("sends matrices to be drawn only when they can have changed", () => {
    const still = put("box", { copies: 8 }, { formation: "row" });
    const mesh = still.rendered.root.children[0] as InstancedMesh;
    const { version } = mesh.instanceMatrix;
    still.at(0, NOW_S + 1);
    expect(mesh.instanceMatrix.version).toBe(version);
    const moved = put("box", { copies: 8 }, { formation: "row" }, ["growth"]);
    const before = (moved.rendered.root.children[0] as InstancedMesh).instanceMatrix.version;
    moved.at(0.7);
    expect((moved.rendered.root.children[0] as InstancedMesh).instanceMatrix.version).toBe(before + 1);
  });

  it("is gone while it is hidden, not shown, or in a group that is", () => {
    expect(put("box", { visibility: 0.4 }).rendered.root.visible).toBe(false);
    expect(put("box", { visibility: 0.5 }).rendered.root.visible).toBe(true);
    const hide = (scene: Scene) => {
      scene.objects[0].hidden = true;
    };
    expect(put("sphere", {}, {}, [], hide).rendered.root.visible).toBe(false);
    expect(put("group", {}, {}, [], hide).seen.root.visible).toBe(false);
  });

  it("moves the members of a group with it, and shares a material's surface", () => {
    const inGroup = put(
      "group",
      { position: [5, 0, 0], rotation: [0, 90, 0], scale: [2, 2, 2] },
      {},
      [],
      (scene) => {
        scene.objects[1].rest.position = [1, 0, 0];
      },
    );
    const [{ position, scale }] = copiesOf(inGroup.seen);
    expect(position.toArray().map((one) => Math.round(one * 1e4) / 1e4)).toEqual([5, 0, -2]);
    expect(scale.x).toBeCloseTo(2, 5);
    const shared = put("material", { colour: "#ff0000", roughness: 0.2 });
    expect(shared.seen.read("colour")).toEqual([1, 0, 0]);
    expect(shared.seen.read("roughness")).toBeCloseTo(0.2, 6);
  });

  it("colours copies along a gradient from the first to the last", () => {
    const gradient = [
      { at: 0, colour: "#ff0000" },
      { at: 1, colour: "#0000ff" },
    ];
    const { rendered } = put("box", { copies: 3 }, { formation: "row", gradientAlong: "copies", gradient });
    const mesh = rendered.root.children[0] as InstancedMesh;
    const colours = [...mesh.geometry.attributes.copyColour.array]
      .slice(0, 9)
      .map((one) => Math.round(one * 100) / 100);
    expect(colours.slice(0, 3)).toEqual([1, 0, 0]);
    expect(colours.slice(6)).toEqual([0, 0, 1]);
  });

  it("looks from the camera's place at its target, and goes round it", () => {
    const { rendered } = put("camera", { position: [0, 0, 5], target: [5, 0, 5] });
    const forward = new Vector3();
    rendered.root.getWorldDirection(forward);
    // A camera looks along its own −z.
    expect(Math.abs(forward.x)).toBeCloseTo(1, 6);
    expect(rendered.read("target")).toEqual([5, 0, 5]);
    const round = put("camera", { position: [0, 1, 5], target: [0, 1, 0], orbitSpeed: 30 });
    const place = round.rendered.read("position") as number[];
    // 30° a second for three seconds.
    expect(place.map((one) => Math.round(one * 1e4) / 1e4)).toEqual([5, 1, 0]);
  });
});
