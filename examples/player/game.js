import { StagedScene } from "@bumbrel/player";
import * as THREE from "three";

const renderer = new THREE.WebGLRenderer();
renderer.setSize(640, 360);
document.body.append(renderer.domElement);

/** The game's own scene: a deck, with the staged scene behind it at half its size. */
const scene = new THREE.Scene();
const deck = new THREE.Mesh(
  new THREE.BoxGeometry(6, 0.2, 3),
  new THREE.MeshStandardMaterial({ color: 0x6b4a2f }),
);
scene.add(deck, new THREE.HemisphereLight(0x9fc7d8, 0x10242c, 1));
const camera = new THREE.PerspectiveCamera(50, 16 / 9, 0.1, 200);
camera.position.set(0, 3, 8);
camera.lookAt(0, 0.5, -4);

const staged = await StagedScene.load(await (await fetch("music/staged.json")).json(), {
  curves: await (await fetch("music/numbers.curves")).arrayBuffer(),
  asset: async (id) => (await fetch(`music/assets/${id}`)).arrayBuffer(),
  letters: async () => (await fetch("music/letters.woff")).arrayBuffer(),
  quality: "plain",
});
staged.root.position.set(0, 0, -6);
staged.root.scale.setScalar(0.5);
scene.add(staged.root);

/** Draws a second of the music; call it from a loop of your own. */
export function show(nowS) {
  staged.update(nowS, camera);
  deck.rotation.z = 0.02 * Math.sin(nowS);
  renderer.render(scene, camera);
}

const startMs = performance.now();
renderer.setAnimationLoop(() => show(((performance.now() - startMs) / 1000) % staged.lengthS));
window.game = { show, staged, renderer };
