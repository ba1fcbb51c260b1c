import type { ObjectKind } from "@bumbrel/core/scene/objectKinds";
import { Group } from "three";
import type { Source, Thing } from "./thing";
import { makeBody } from "./things/body";
import { makeCamera } from "./things/camera";
import { makeNest, makeOutlines, makeRibbon, makeSpectrum, makeWaveform } from "./things/drawings";
import { makeLens } from "./things/lens";
import { makeAmbientLight, makePointLight, makeSpotLight, makeSunLight } from "./things/lights";
import { makeOrbits, makeParticles } from "./things/moving";
import { makeBackdrop, makeGround, makeWater } from "./things/surroundings";

/** What is not seen by itself: what is in a group is placed by it, and a material is seen on others. */
function makeUnseen(source: Source): Thing {
  return {
    root: new Group(),
    apply() {},
    read: () => undefined,
    drawn: () => drawnOfOthers(source),
    dispose() {},
  };
}

/** What a group or material does is seen on others; its own numbers are what it passes on. */
function drawnOfOthers({ plan, placing }: Source): number[] {
  return plan.object.kind === "group" ? [...placing.rootsOf(plan).matrices] : [];
}

/** How each kind is put on the stage: the player's side of core's table of kinds. */
const MAKERS: Record<ObjectKind, (source: Source) => Thing> = {
  camera: makeCamera,
  backdrop: makeBackdrop,
  lens: makeLens,
  box: makeBody,
  sphere: makeBody,
  cylinder: makeBody,
  cone: makeBody,
  torus: makeBody,
  plane: makeBody,
  icosphere: makeBody,
  text: makeBody,
  picture: makeBody,
  model: makeBody,
  group: makeUnseen,
  material: makeUnseen,
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
};

export function makeThing(source: Source): Thing {
  return MAKERS[source.object.kind](source);
}
