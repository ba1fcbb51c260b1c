import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import type { Asset, ObjectKind, RestValue, StageObject } from "../document/scene";
import { newObject, newScene } from "../kinds/create";
import { hexToLinear } from "../setting/colour";
import type { SettingValue } from "../setting/descriptor";
import { about, byColumn, moved, product, type Rows, sized, turnedBy } from "../testing/slowMatrix";
import { newInstances } from "./placing";
import { SceneState } from "./sceneState";

const object = (
  id: string,
  kind: ObjectKind,
  rest: Record<string, RestValue> = {},
  settings: Record<string, SettingValue> = {},
  parentId: string | null = null,
): StageObject => ({ ...newObject(id, kind, id), rest, settings, parentId });

/** Everything in its place at a time: what stands of one object, and the way it got there. */
function placed(objects: StageObject[], id: string, timeS = 0, assets: Asset[] = []) {
  const scene = { ...newScene("Quay"), objects, assets };
  const state = new SceneState(scene);
  state.advanceTo(timeS);
  const { placing, values } = state;
  const plan = state.plan.of(id)!;
  const into = newInstances(placing.maxInstances(plan));
  const count = placing.writeInstances(plan, timeS, values, into);
  return {
    count,
    matrices: Array.from({ length: count }, (_, i) => [...into.matrices.slice(i * 16, i * 16 + 16)]),
    colours: Array.from({ length: count }, (_, i) => [...into.colours.slice(i * 3, i * 3 + 3)]),
    glows: Array.from({ length: count }, (_, i) => [...into.glows.slice(i * 4, i * 4 + 4)]),
    isShown: placing.isShown(plan, values),
    placing,
    plan,
  };
}

function expectPlaces(found: number[][], expected: Rows[]) {
  expect(found).toHaveLength(expected.length);
  expected.forEach((rows, i) => {
    byColumn(rows).forEach((one, k) => {
      expect(Math.abs(found[i][k] - one)).toBeLessThan(1e-4 * Math.max(1, Math.abs(one)));
    });
  });
}

const STILL = moved([0, 0, 0]);
const row = (count: number, spacing: number) =>
  Array.from({ length: count }, (_, i) => moved([(i - (count - 1) / 2) * spacing, 0, 0]));

describe("placing", () => {
  it("multiplies out groups, copies, turns, sizes and growth as they are nested", () => {
    const number = fc.double({ min: -20, max: 20, noNaN: true });
    const vector = fc.tuple(number, number, number);
    const size = fc.double({ min: 0.1, max: 4, noNaN: true });
    const sizes = fc.tuple(size, size, size);
    fc.assert(
      fc.property(
        fc.record({
          pier: vector,
          pierTurn: vector,
          pierScale: sizes,
          boats: fc.integer({ min: 1, max: 4 }),
          boatTurn: vector,
          box: vector,
          boxTurn: vector,
          boxSize: sizes,
          posts: fc.integer({ min: 1, max: 4 }),
          shift: vector,
          turn: vector,
          scale: sizes,
          growth: size,
          growsAlong: fc.constantFrom("x", "y", "z"),
          anchor: fc.constantFrom("centre", "base", "corner"),
        }),
        (p) => {
          const found = placed(
            [
              object(
                "pier",
                "group",
                {
                  position: p.pier,
                  rotation: p.pierTurn,
                  scale: p.pierScale,
                  copies: p.boats,
                  spacing: 3,
                  copyTurn: p.boatTurn,
                },
                { formation: "row", facing: "same" },
              ),
              object(
                "post",
                "box",
                {
                  position: p.box,
                  rotation: p.boxTurn,
                  size: p.boxSize,
                  copies: p.posts,
                  spacing: 0.7,
                  copyShift: p.shift,
                  copyTurn: p.turn,
                  copyScale: p.scale,
                  growth: p.growth,
                },
                { formation: "row", facing: "same", growsAlong: p.growsAlong, anchor: p.anchor },
                "pier",
              ),
            ],
            "post",
          );
          const pier = product(moved(p.pier), turnedBy(p.pierTurn), sized(p.pierScale));
          const box = product(moved(p.box), turnedBy(p.boxTurn));
          const whole = p.boxSize.map((one, axis) => one * ("xyz"[axis] === p.growsAlong ? p.growth : 1));
          const lies = { centre: [0, 0, 0], base: [0, 0.5, 0], corner: [0.5, 0.5, 0.5] }[p.anchor];
          const shape = product(sized(p.scale), sized(whole), moved(lies));
          expectPlaces(
            found.matrices,
            row(p.boats, 3).flatMap((boat) =>
              row(p.posts, 0.7).map((post) =>
                product(pier, boat, turnedBy(p.boatTurn), box, moved(p.shift), post, turnedBy(p.turn), shape),
              ),
            ),
          );
        },
      ),
    );
  });

  it.each<[ObjectKind, Record<string, RestValue>, number[]]>([
    ["box", { size: [1, 2, 3] }, [1, 2, 3]],
    ["sphere", { radius: 2 }, [4, 4, 4]],
    ["icosphere", { radius: 0.5 }, [1, 1, 1]],
    ["cylinder", { radius: 2, height: 5 }, [4, 5, 4]],
    ["cone", { radius: 1, height: 3 }, [2, 3, 2]],
    ["torus", { radius: 3 }, [3, 3, 3]],
    ["text", { height: 0.8, depth: 0.1 }, [0.8, 0.8, 0.1]],
    ["capsule", { radius: 0.2, height: 2 }, [0.4, 2, 0.4]],
    ["extrusion", { size: [2, 0.5, 1] }, [2, 0.5, 1]],
    ["lathe", { radius: 1.5, height: 2 }, [3, 2, 3]],
  ])("gives a %s the size its numbers say", (kind, rest, size) => {
    const { matrices } = placed([object("it", kind, rest, { anchor: "centre" })], "it");
    expectPlaces(matrices, [sized(size)]);
  });

  it("keeps an image's proportions at the height it is given", () => {
    const asset: Asset = {
      kind: "picture",
      id: "p",
      name: "Chart",
      storedId: "p",
      widthPx: 640,
      heightPx: 160,
    };
    const { matrices } = placed(
      [object("it", "picture", { height: 2 }, { pictureId: "p", anchor: "centre" })],
      "it",
      0,
      [asset],
    );
    expectPlaces(matrices, [sized([8, 2, 1])]);
  });

  it("spins on from the start, for as long as it has been going", () => {
    const { matrices } = placed([object("wheel", "box", { spin: 90 }, { anchor: "centre" })], "wheel", 1);
    const size = placed([object("wheel", "box", {}, { anchor: "centre" })], "wheel").matrices[0];
    expectPlaces(matrices, [product(about.y(90), sized([size[0], size[5], size[10]]))]);
  });

  it("hides the members of a group that is hidden or not shown, and nothing else", () => {
    const shown = (group: Partial<StageObject>, rest: Record<string, RestValue> = {}) =>
      placed(
        [{ ...object("g", "group"), ...group }, object("in", "box", rest, {}, "g"), object("by", "box")],
        "in",
      ).isShown;
    expect(shown({})).toBe(true);
    expect(shown({ hidden: true })).toBe(false);
    expect(shown({ rest: { visibility: 0.49 } })).toBe(false);
    expect(shown({ rest: { visibility: 0.5 } })).toBe(true);
    expect(shown({}, { visibility: 0 })).toBe(false);
    expect(placed([{ ...object("g", "group"), hidden: true }, object("by", "box")], "by").isShown).toBe(true);
  });

  it("puts members of a group that contains itself, or of a missing group, on the stage", () => {
    const inItself = placed(
      [
        object("a", "group", { position: [9, 9, 9] }, {}, "b"),
        object("b", "group", { position: [9, 9, 9] }, {}, "a"),
        object("box", "box", { size: [1, 1, 1] }, { anchor: "centre" }, "sphere"),
        object("sphere", "sphere"),
      ],
      "box",
    );
    expectPlaces(inItself.matrices, [STILL]);
    expect(inItself.placing.parentOf(inItself.plan)).toBeUndefined();
  });

  it("never shows more of anything than there may be", () => {
    const many = { copies: 4096, spacing: 0.1 };
    const found = placed(
      [
        object("crowd", "group", { copies: 100 }, { formation: "ring" }),
        object("lamp", "sphere", many, { formation: "row" }, "crowd"),
      ],
      "lamp",
    );
    expect(found.count).toBe(4000);
    expect(found.placing.maxInstances(found.plan)).toBe(4096);
    expect(found.placing.countOf(found.plan)).toBe(4096);
  });
});

describe("the look of copies", () => {
  const rowOf = (copies: number, rest: Record<string, RestValue>, settings: Record<string, SettingValue>) =>
    placed([object("lamps", "sphere", { copies, ...rest }, { formation: "row", ...settings })], "lamps");
  const black = { at: 0, colour: "#000000" };
  const white = { at: 1, colour: "#ffffff" };

  it("is alike for all of them where nothing sets them apart", () => {
    const { colours, glows } = rowOf(
      3,
      { colour: "#e3b563", emissionColour: "#ff8800", emissionStrength: 2, opacity: 0.25 },
      {},
    );
    const glow = [...hexToLinear("#ff8800").map((one) => one * 2), 0.25];
    for (let i = 0; i < 3; i++) {
      hexToLinear("#e3b563").forEach((one, axis) => {
        expect(colours[i][axis]).toBeCloseTo(one, 6);
      });
      glow.forEach((one, axis) => {
        expect(glows[i][axis]).toBeCloseTo(one, 6);
      });
    }
  });

  it("goes along a gradient from the first to the last, as far as it is mixed in, and round when it is moved", () => {
    const lightness = (rest: Record<string, RestValue>) =>
      rowOf(
        5,
        { colour: "#000000", ...rest },
        { gradientAlong: "copies", gradient: [black, white] },
      ).colours.map(([red]) => red);
    const whole = lightness({});
    expect(whole[0]).toBeCloseTo(0, 6);
    expect(whole[4]).toBeCloseTo(1, 3);
    for (let i = 1; i < 5; i++) expect(whole[i]).toBeGreaterThan(whole[i - 1]);
    lightness({ gradientAmount: 0.5 }).forEach((one, i) => {
      expect(one).toBeCloseTo(whole[i] / 2, 5);
    });
    // Moved by a quarter, each copy has what the next one had.
    lightness({ gradientShift: 0.25 })
      .slice(0, 3)
      .forEach((one, i) => {
        expect(one).toBeCloseTo(whole[i + 1], 2);
      });
  });

  it("goes through a gradient over time once in ten seconds", () => {
    const at = (timeS: number) =>
      placed(
        [object("lamp", "sphere", {}, { gradientAlong: "time", gradient: [black, white] })],
        "lamp",
        timeS,
      ).colours[0][0];
    expect(at(0)).toBeCloseTo(0, 6);
    expect(at(5)).toBeGreaterThan(at(2));
    expect(at(12)).toBeCloseTo(at(2), 6);
  });

  it("turns hues by chance without changing how light they are", () => {
    const plain = rowOf(6, { emissionColour: "#c05a3c", emissionStrength: 1 }, {}).glows;
    const varied = rowOf(6, { emissionColour: "#c05a3c", emissionStrength: 1, hueSpread: 60 }, {}).glows;
    expect(new Set(varied.map((one) => one.join())).size).toBe(6);
    // Lightness of OKLab from linear RGB (Ottosson 2020), as its own few lines.
    const lightness = ([r, g, b]: number[]) =>
      0.2104542553 * Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b) +
      0.793617785 * Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b) -
      0.0040720468 * Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
    varied.forEach((one, i) => {
      // A turn that leaves what a screen can show is brought back into it.
      expect(Math.abs(lightness(one) - lightness(plain[i]))).toBeLessThan(0.08);
    });
  });

  it("is that of a shared material, whose gradient still goes along the copies", () => {
    const found = placed(
      [
        object("paper", "material", { colour: "#204060", opacity: 0.5 }),
        object(
          "lamps",
          "sphere",
          { copies: 3, colour: "#ffffff" },
          { formation: "row", materialId: "paper" },
        ),
      ],
      "lamps",
    );
    for (const colour of found.colours) {
      hexToLinear("#204060").forEach((one, axis) => {
        expect(colour[axis]).toBeCloseTo(one, 6);
      });
    }
    expect(found.glows.every(([, , , opacity]) => opacity === 0.5)).toBe(true);
  });
});
