import { openBaked } from "@bumbrel/runtime";
import * as THREE from "three";

const numbers = openBaked(await (await fetch("music/numbers.curves")).arrayBuffer());
const snare = numbers.strand("Snare");
const row = numbers.strand("Row of lamps");

const renderer = new THREE.WebGLRenderer({ antialias: true });
renderer.setSize(640, 360);
renderer.xr.enabled = true;
document.body.append(renderer.domElement);
const scene = new THREE.Scene();
scene.background = new THREE.Color("#071318");
const camera = new THREE.PerspectiveCamera(70, 16 / 9, 0.1, 50);
camera.position.y = 1.6;

/** Lanterns on a dome around whoever stands in the middle: metres, at the height of the eyes. */
const lanterns = Array.from({ length: row.width }, (_none, band) => {
  const lantern = new THREE.Mesh(
    new THREE.IcosahedronGeometry(0.12, 1),
    new THREE.MeshBasicMaterial({ color: "#e3b563" }),
  );
  const angle = band * 2.4;
  const height = 0.8 + (1.8 * band) / row.width;
  lantern.position.set(2 * Math.cos(angle), height, 2 * Math.sin(angle));
  scene.add(lantern);
  return lantern;
});

let lastS = 0;
let pulse = 0;
let pulses = 0;

/** One frame, in the headset or on the page. */
export function show(nowS) {
  snare.eachCue(lastS, nowS, ({ strength }) => {
    pulse = strength;
    pulses++;
    for (const source of renderer.xr.getSession()?.inputSources ?? [])
      void source.gamepad?.hapticActuators?.[0]?.pulse(strength, 40);
  });
  lastS = nowS;
  pulse *= 0.92;
  for (const [band, lantern] of lanterns.entries())
    lantern.scale.setScalar(0.5 + 1.5 * row.at(nowS, band) + pulse);
  renderer.render(scene, camera);
}

const startMs = performance.now();
renderer.setAnimationLoop(() => show((performance.now() - startMs) / 1000));

if (await navigator.xr?.isSessionSupported("immersive-vr")) {
  const enter = document.createElement("button");
  enter.textContent = "Enter the room";
  enter.onclick = async () =>
    renderer.xr.setSession(
      await navigator.xr.requestSession("immersive-vr", { optionalFeatures: ["local-floor"] }),
    );
  document.body.append(enter);
}
window.game = { show, lanterns, numbers, renderer, pulses: () => pulses };
