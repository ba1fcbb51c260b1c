import { newStrand } from "@bumbrel/core/document/newStrand";
import { newBinding, newObject, newProject } from "@bumbrel/core/kinds/create";
import { changePalette, paintNew } from "@bumbrel/core/kinds/palette";
import { placeNew } from "@bumbrel/core/kinds/placeNew";
import { kindOf, OBJECT_KIND_NAMES, propertiesOf } from "@bumbrel/core/kinds/table";
import { PALETTE_IDS } from "@bumbrel/core/setting/palettes";
import { REGATTA_SOUNDS, regattaScene } from "@bumbrel/demo/regattaScene";
import { tuningShedScene } from "@bumbrel/demo/tuningShed";
import { playerHandle } from "@bumbrel/player/playerHandle";
import { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { Stage } from "@bumbrel/player/stage/stage";

const lib = {
  newObject,
  newProject,
  newBinding,
  changePalette,
  paintNew,
  placeNew,
  kindOf,
  OBJECT_KIND_NAMES,
  propertiesOf,
  newStrand,
  PALETTE_IDS,
  regatta: () => regattaScene(Object.fromEntries(REGATTA_SOUNDS.map(({ id }) => [id, "x" + id]))),
  shed: tuningShedScene,
  add(scene: any, kind: any, id = "it") {
    const o = newObject(id, kind, id);
    paintNew(scene, o);
    placeNew(scene.objects, o);
    scene.objects.push(o);
    return o;
  },
};
(window as any).lib = lib;
let canvas: HTMLCanvasElement | undefined;
(window as any).show = async (code: string, w: number, h: number, t: number) => {
  const made = await new (Object.getPrototypeOf(async () => {}).constructor)("lib", code)(lib);
  const scene = made.scene ?? made;
  const value = made.value ?? 0;
  canvas?.remove();
  canvas = document.createElement("canvas");
  canvas.style.cssText = `position:fixed;left:0;top:0;width:${w}px;height:${h}px`;
  document.body.append(canvas);
  const player = new ScenePlayer(scene);
  const stage = new Stage(canvas, undefined, async () =>
    (await fetch("http://font.local/f.woff")).arrayBuffer(),
  );
  stage.resize(w, h, 1);
  const detach = player.attach(stage);
  player.setTracks(made.tracks ?? new Map([["s", { width: 1, values: Float32Array.of(value), cues: [] }]]));
  player.show(0);
  await player.whenLoaded();
  player.show(t);
  stage.update();
  stage.render();
  player.show(t + 0.001);
  stage.update();
  stage.render();
};
