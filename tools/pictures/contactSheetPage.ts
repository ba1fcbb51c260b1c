import { runScriptsIn } from "@bumbrel/core/analyse/scripts/scriptThread";
import type { ObjectKind, Scene } from "@bumbrel/core/document/scene";
import { newObject, newProject } from "@bumbrel/core/kinds/create";
import { paintNew } from "@bumbrel/core/kinds/palette";
import { placeNew } from "@bumbrel/core/kinds/placeNew";
import { kindOf, OBJECT_KIND_NAMES } from "@bumbrel/core/kinds/table";
import { REGATTA_SOUNDS, regattaScene } from "@bumbrel/demo/scenes/regattaScene";
import { tuningShedScene } from "@bumbrel/demo/tuningShed";
import { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { Stage } from "@bumbrel/player/stage/stage";

runScriptsIn(() => new Worker(window.scriptsAddress));

interface Shown {
  label: string;
  isExample: boolean;
}

declare global {
  interface Window {
    /** Address of the code of the worker that runs scripts. */
    scriptsAddress: string;
    /** Pictures to show: the examples, then every kind of object. */
    shown: Shown[];
    /** Draws one of them on the whole page. */
    showOne(index: number, width: number, height: number): Promise<void>;
  }
}

/** Models and images show a file of somebody's own. */
const KINDS = OBJECT_KIND_NAMES.filter((kind) => {
  const { shelf } = kindOf(kind);
  return shelf !== undefined && kind !== "model" && kind !== "picture";
});

/** A new project with one thing on it, as somebody gets it who adds it; lights get something to shine on. */
function sceneOf(kind: ObjectKind): Scene {
  const scene = newProject(kind);
  const put = (id: string, one: ObjectKind) => {
    const object = newObject(id, one, id);
    paintNew(scene, object);
    placeNew(scene.objects, object);
    scene.objects.push(object);
  };
  if (kindOf(kind).shelf === "lights") for (const id of ["first", "second"]) put(id, "sphere");
  put("it", kind);
  return scene;
}

const EXAMPLES: { label: string; make: () => Scene; timeS: number }[] = [
  {
    label: "Regatta Night",
    make: () => regattaScene(Object.fromEntries(REGATTA_SOUNDS.map(({ id }) => [id, id]))),
    timeS: 26.48,
  },
  { label: "Tuning Shed", make: tuningShedScene, timeS: 15.2 },
];
const ALL = [
  ...EXAMPLES.map((one) => ({ ...one, isExample: true })),
  ...KINDS.map((kind) => ({
    label: kindOf(kind).label,
    make: () => sceneOf(kind),
    timeS: 2.3,
    isExample: false,
  })),
];
window.shown = ALL.map(({ label, isExample }) => ({ label, isExample }));

window.showOne = async (index, width, height) => {
  const { make, timeS } = ALL[index];
  document.querySelector("canvas")?.remove();
  const canvas = document.createElement("canvas");
  canvas.style.cssText = `position: fixed; inset: 0; width: ${width}px; height: ${height}px`;
  document.body.append(canvas);
  const player = new ScenePlayer({ ...make(), quality: "desktop" });
  const stage = new Stage(canvas, undefined, async () => (await fetch("/font.woff")).arrayBuffer());
  stage.resize(width, height, 1);
  const detach = player.attach(stage);
  player.setTracks(new Map());
  await player.show(0);
  await player.whenLoaded();
  await player.show(timeS);
  // The image is read before the next one is drawn.
  await createImageBitmap(canvas);
  detach();
};
