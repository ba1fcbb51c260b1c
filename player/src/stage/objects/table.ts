import type { ObjectKind } from "@bumbrel/core/document/scene";
import { Group } from "three";
import type { DrawnParts, ObjectSource, RenderedObject } from "../renderedObject";
import { makeBackdrop } from "./backdrop";
import { makeBody } from "./body";
import { makeCamera } from "./camera";
import { makeNest, makeOutlines, makeRibbon, makeSpectrum, makeWaveform } from "./drawings";
import { makeEnvironment } from "./environment";
import { makeLens } from "./lens";
import { makeAmbientLight, makePointLight, makeSpotLight, makeSunLight } from "./lights";
import { makeOrbits, makeParticles } from "./moving";
import { makeDrawingOver, makePicturePass } from "./programmed";
import { makeGround, makeWater } from "./surroundings";

/** Kinds that are not drawn by themselves: a group places the objects in it, a material shows on others. */
function makeUnseen(source: ObjectSource): RenderedObject {
  return {
    root: new Group(),
    update() {},
    read: () => undefined,
    drawnParts: () => drawnOfOthers(source),
    dispose() {},
  };
}

/** A group or material is seen on others; its own numbers are what it passes on. */
function drawnOfOthers({ plan, state: { placing } }: ObjectSource): DrawnParts {
  return plan.object.kind === "group" ? { matrices: [...placing.rootsOf(plan).matrices] } : {};
}

/** How each kind is put on the stage: the player's side of core's table of kinds. */
const MAKERS: Record<ObjectKind, (source: ObjectSource) => RenderedObject> = {
  camera: makeCamera,
  backdrop: makeBackdrop,
  environment: makeEnvironment,
  lens: makeLens,
  box: makeBody,
  sphere: makeBody,
  cylinder: makeBody,
  capsule: makeBody,
  cone: makeBody,
  torus: makeBody,
  plane: makeBody,
  icosphere: makeBody,
  extrusion: makeBody,
  lathe: makeBody,
  tube: makeBody,
  terrain: makeBody,
  text: makeBody,
  picture: makeBody,
  model: makeBody,
  group: makeUnseen,
  material: makeUnseen,
  world: makeUnseen,
  zone: makeUnseen,
  viewpoint: makeUnseen,
  waveform: makeWaveform,
  spectrum: makeSpectrum,
  outlines: makeOutlines,
  nest: makeNest,
  ribbon: makeRibbon,
  particles: makeParticles,
  orbits: makeOrbits,
  pointLight: makePointLight,
  spotLight: makeSpotLight,
  sunLight: makeSunLight,
  ambientLight: makeAmbientLight,
  ground: makeGround,
  water: makeWater,
  drawing: makeBody,
  drawingOver: makeDrawingOver,
  picturePass: makePicturePass,
};

export function renderObject(source: ObjectSource): RenderedObject {
  return MAKERS[source.object.kind](source);
}
