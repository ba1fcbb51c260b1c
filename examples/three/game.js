import { openBaked } from "@bumbrel/runtime";
import * as THREE from "three";

const numbers = openBaked(await (await fetch("music/numbers.curves")).arrayBuffer());
const row = numbers.strand("Row of lamps");
const swell = numbers.strand("Whole evening");

const renderer = new THREE.WebGLRenderer();
renderer.setSize(640, 360);
document.body.append(renderer.domElement);
const scene = new THREE.Scene();
const camera = new THREE.PerspectiveCamera(50, 16 / 9, 0.1, 50);
camera.position.set(0, 3, 8);
camera.lookAt(0, 0, 0);

/** A lamp for each band of the fan, in a ring. */
const lamps = Array.from({ length: row.width }, (_none, band) => {
  const material = new THREE.MeshBasicMaterial();
  const lamp = new THREE.Mesh(new THREE.SphereGeometry(0.2), material);
  const angle = (2 * Math.PI * band) / row.width;
  lamp.position.set(3 * Math.cos(angle), 0, 3 * Math.sin(angle));
  scene.add(lamp);
  return lamp;
});

/** Draws a second of the music; call it from a loop of your own. */
export function show(nowS) {
  lamps.forEach((lamp, band) => {
    const glow = row.at(nowS, band);
    lamp.scale.setScalar(0.4 + 2 * glow);
    lamp.material.color.setRGB(0.15 + glow, 0.1 + 0.7 * glow, 0.1 + 0.3 * glow);
  });
  scene.rotation.y = 0.4 * nowS;
  scene.scale.setScalar(0.8 + 0.4 * swell.at(nowS));
  renderer.render(scene, camera);
}

const startMs = performance.now();
renderer.setAnimationLoop(() => show(((performance.now() - startMs) / 1000) % numbers.lengthS));
window.game = { show, lamps, numbers };
