import { openBaked } from "@bumbrel/runtime";

const numbers = openBaked(await (await fetch("music/numbers.curves")).arrayBuffer());
const bass = numbers.strand("Bass");
const snare = numbers.strand("Snare");
const row = numbers.strand("Row of lamps");
const lamps = new Float32Array(row.width);

const canvas = document.querySelector("canvas");
const draw = canvas.getContext("2d");
let jump = 0;
let lastS = 0;

/** Draws the game at a second of the music. */
export function show(nowS) {
  snare.eachCue(lastS, nowS, ({ strength }) => {
    jump = 40 + 60 * strength;
  });
  jump *= 0.9;
  lastS = nowS;
  draw.fillStyle = "#071318";
  draw.fillRect(0, 0, canvas.width, canvas.height);
  row.fill(nowS, lamps);
  lamps.forEach((lamp, i) => {
    draw.fillStyle = `rgb(227 181 99 / ${lamp})`;
    draw.fillRect(20 + (i * 600) / lamps.length, 40, 500 / lamps.length, 20 + 60 * lamp);
  });
  const size = 1 + bass.at(nowS);
  draw.fillStyle = "#c8663f";
  draw.beginPath();
  draw.ellipse(320, 280 - jump, 60 * size, 22 * size, 0, 0, Math.PI);
  draw.fill();
}

document.querySelector("button").onclick = async ({ target }) => {
  target.remove();
  const context = new AudioContext();
  // Every sound of the scene that its strands listen to, started on the same sample.
  const { sounds } = await (await fetch("music/numbers.json")).json();
  const startS = context.currentTime + 0.2;
  for (const { file } of sounds) {
    const source = context.createBufferSource();
    source.buffer = await context.decodeAudioData(await (await fetch(`music/${file}`)).arrayBuffer());
    source.connect(context.destination);
    source.start(startS, Math.max(0, context.currentTime - startS));
  }
  const loop = () => {
    show(Math.max(0, context.currentTime - startS));
    requestAnimationFrame(loop);
  };
  loop();
};
window.game = { show, numbers };
