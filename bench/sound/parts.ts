import { PART_DELAY } from "@bumbrel/core/dsp/maths/measureWindows";
import { finish } from "@bumbrel/core/dsp/maths/slices";
import { partSignalSliced } from "@bumbrel/core/strand/hearing/partSignal";
import { makeRegattaNight } from "@bumbrel/demo/scenes/regattaNight";

/** How well drums and all else of the example come apart, whose stems are known. */
const { stems } = makeRegattaNight(1);
const struck = stems.drums.map((x) => 0.6 * x);
const lasting = stems.pad.map((x, i) => 0.3 * x + 0.3 * stems.bass[i]);
const samples = struck.map((x, i) => x + lasting[i]);
const power = (all: Float32Array) => all.reduce((sum, x) => sum + x * x, 0);
const off = (part: Float32Array, meant: Float32Array) =>
  10 * Math.log10(power(meant) / power(part.map((x, i) => x - meant[i])));
const beganMs = performance.now();
const percussive = finish(partSignalSliced({ samples }, "percussive")).samples as Float32Array;
const perSecondMs = (performance.now() - beganMs) / (samples.length / 48_000);
const harmonic = finish(partSignalSliced({ samples }, "harmonic")).samples as Float32Array;
const before = [off(samples, struck), off(samples, lasting)];
console.log(
  `parts of a sound: drums ${off(percussive, struck).toFixed(1)} dB over what is wrong in what strikes (${before[0].toFixed(1)} in the whole), ` +
    `pad and bass ${off(harmonic, lasting).toFixed(1)} dB in what lasts (${before[1].toFixed(1)}); ` +
    `${perSecondMs.toFixed(0)} ms a second, ${((1000 * PART_DELAY) / 48_000).toFixed(0)} ms late live`,
);
