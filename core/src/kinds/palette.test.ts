import { describe, expect, it } from "@jest/globals";
import { PALETTE_IDS, PALETTES } from "../setting/palettes";
import { newBinding, newObject, newProject } from "./create";
import { changePalette, paintNew } from "./palette";

const inksOfScene = (scene: ReturnType<typeof newProject>) =>
  scene.objects.filter(({ kind }) => kind === "box").map(({ rest }) => rest.colour);

function withBoxes(count: number) {
  const scene = newProject("Quay");
  for (let i = 0; i < count; i++) {
    const box = newObject(`b${i}`, "box", `Box ${i}`);
    paintNew(scene, box);
    scene.objects.push(box);
  }
  return scene;
}

describe("new things", () => {
  it("take the ink that the fewest have", () => {
    expect(inksOfScene(withBoxes(6)).sort()).toEqual([...PALETTES.slackwater.inks].sort());
  });

  it("take their colours from the palette, and images take none", () => {
    const scene = newProject("Quay");
    const paint = (kind: "water" | "pointLight" | "picture" | "particles") => {
      const object = newObject("it", kind, "It");
      paintNew(scene, object);
      return object.rest;
    };
    expect(paint("water").colour).toBe(PALETTES.slackwater.floor);
    expect(paint("pointLight").colour).toBe(PALETTES.slackwater.lamp);
    expect(paint("picture").colour).toBeUndefined();
    const { colour, middleColour } = paint("particles");
    expect(colour).not.toBe(middleColour);
  });
});

describe("another palette", () => {
  it.each(PALETTE_IDS)("gives each colour its counterpart in the palette, and comes back (%s)", (id) => {
    const scene = withBoxes(6);
    scene.bindings.push(newBinding("b", "s", scene.objects.at(-1)!, "colour"));
    const before = JSON.parse(JSON.stringify(scene.objects));
    changePalette(scene, id, 1);
    expect(inksOfScene(scene)).toEqual([...PALETTES[id].inks]);
    expect(scene.objects.find(({ kind }) => kind === "backdrop")!.rest.top).toBe(PALETTES[id].sky.top);
    changePalette(scene, "slackwater", 1);
    expect(inksOfScene(scene)).toEqual(inksOfScene({ ...scene, objects: before }));
  });

  it("blends lights normally on a light sky, and additively again on a dark one", () => {
    const scene = newProject("Quay");
    const particles = newObject("p", "particles", "Sparks");
    const orbits = { ...newObject("o", "orbits", "Orbits"), rest: { emissionStrength: 2 } };
    scene.objects.push(particles, orbits);
    changePalette(scene, "noon", 1);
    expect([particles.settings.blend, particles.rest.glow]).toEqual(["normal", 1]);
    expect([orbits.settings.blend, orbits.rest.emissionStrength]).toEqual(["normal", 2]);
    changePalette(scene, "fog", 1);
    expect(particles.settings.blend).toBe("normal");
    changePalette(scene, "ice", 1);
    expect([particles.settings.blend, particles.rest.glow]).toEqual([undefined, undefined]);
    expect([orbits.settings.blend, orbits.rest.emissionStrength]).toEqual([undefined, 2]);
    const added = newObject("n", "particles", "More");
    paintNew({ ...scene, palette: { id: "noon", seed: 1 } }, added);
    expect([added.settings.blend, added.rest.glow]).toEqual(["normal", 1]);
  });

  it("orders its inks by a seed, always alike", () => {
    const orders = [1, 2, 3].map((seed) => {
      const scene = withBoxes(6);
      changePalette(scene, "kelp", seed);
      return inksOfScene(scene).join();
    });
    expect(new Set(orders).size).toBe(3);
    const again = withBoxes(6);
    changePalette(again, "kelp", 3);
    expect(inksOfScene(again).join()).toBe(orders[2]);
  });

  it("takes colours of one's own along to the nearest ink", () => {
    const scene = withBoxes(1);
    // Nearly the second ink of the palette, a pale paper.
    scene.objects.at(-1)!.rest.colour = "#f0ebe0";
    changePalette(scene, "embers", 1);
    expect(scene.objects.at(-1)!.rest.colour).toBe(PALETTES.embers.inks[1]);
  });
});
