import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { noteHz } from "@bumbrel/core/dsp/tone/note";
import { bass, bell, kick, pad, pluck, shaker } from "./voices";

const BEAT_S = 0.6;
/** Length of each loop: sixteen beats. */
const LOOP_S = 16 * BEAT_S;

/** Music of the places along the quay, and what is struck there, by the names of their files. */
export type QuaySound = "netLoft" | "boatHouse" | "lampRoom" | "fogBell" | "farewell" | "buoy";

const CHORDS = [
  [57, 60, 64, 67],
  [53, 57, 60, 64],
  [55, 59, 62, 67],
  [52, 55, 59, 64],
];

/** An empty sound that wraps round: what rings past its end is heard at its start. */
class Loop {
  readonly samples: Float32Array;
  private readonly whole: Float32Array;

  constructor(seconds: number, tailS: number) {
    this.samples = new Float32Array(Math.round(seconds * SAMPLE_RATE_HZ));
    this.whole = new Float32Array(this.samples.length + Math.round(tailS * SAMPLE_RATE_HZ));
  }

  at(beat: number) {
    return { samples: this.whole, start: Math.round(beat * BEAT_S * SAMPLE_RATE_HZ) };
  }

  /** The loop at a gain, with its tail laid over its start. */
  closed(gain: number): Float32Array {
    const { samples, whole } = this;
    for (let i = 0; i < whole.length; i++) samples[i % samples.length] += whole[i];
    for (let i = 0; i < samples.length; i++) samples[i] = Math.tanh(samples[i] * gain);
    return samples;
  }
}

/** Plucked strings in the net loft: arpeggios, a little uneven. */
function netLoft(random: () => number): Float32Array {
  const loop = new Loop(LOOP_S, 2);
  for (let beat = 0; beat < 16; beat += 0.5) {
    const chord = CHORDS[Math.floor(beat / 4)];
    const note = chord[Math.floor(beat * 2) % chord.length] + (beat % 2 === 1.5 ? 12 : 0);
    if (beat % 1 === 0 || random() < 0.7) pluck(loop.at(beat), noteHz(note), 0.5 + 0.3 * random(), random);
  }
  return loop.closed(0.7);
}

/** A slow choir and a bass in the boat house. */
function boatHouse(): Float32Array {
  const loop = new Loop(LOOP_S, 1);
  for (let bar = 0; bar < 4; bar++) {
    pad(loop.at(bar * 4), CHORDS[bar].map(noteHz), 4 * BEAT_S + 0.4, 0.8);
    for (const beat of [0, 1.5, 3]) bass(loop.at(bar * 4 + beat), noteHz(CHORDS[bar][0] - 12), BEAT_S, 0.6);
  }
  return loop.closed(0.8);
}

/** Small bells over a quick beat in the lamp room. */
function lampRoom(random: () => number): Float32Array {
  const loop = new Loop(LOOP_S, 4.5);
  for (let beat = 0; beat < 16; beat++) {
    if (beat % 2 === 0) kick(loop.at(beat), 0.8);
    shaker(loop.at(beat + 0.5), 0.7, random);
    shaker(loop.at(beat + 0.75), 0.4, random);
    const chord = CHORDS[Math.floor(beat / 4)];
    if (random() < 0.6) bell(loop.at(beat), noteHz(chord[Math.floor(random() * 4)] + 24), 0.25);
  }
  return loop.closed(0.9);
}

/** A tune of sixteen seconds to stand before a camera with, which ends. */
function farewell(random: () => number): Float32Array {
  const loop = new Loop(16, 4);
  for (let bar = 0; bar < 6; bar++) {
    const chord = CHORDS[bar % 4];
    pad(loop.at(bar * 4), chord.map(noteHz), 4 * BEAT_S + 0.3, 0.4 + 0.08 * bar);
    for (let beat = 0; beat < 4; beat++) {
      kick(loop.at(bar * 4 + beat), bar > 1 ? 0.8 : 0.4);
      shaker(loop.at(bar * 4 + beat + 0.5), 0.6, random);
      pluck(loop.at(bar * 4 + beat), noteHz(chord[(beat * 3) % 4] + 12), 0.7, random);
    }
    bass(loop.at(bar * 4), noteHz(chord[0] - 12), 3 * BEAT_S, 0.6);
  }
  const { samples } = loop;
  const all = loop.closed(0.6);
  // It dies away over its last two seconds.
  const fade = 2 * SAMPLE_RATE_HZ;
  for (let i = 0; i < fade; i++) all[samples.length - fade + i] *= 1 - i / fade;
  return all;
}

function struck(hz: number, seconds: number): Float32Array {
  const samples = new Float32Array(Math.round(seconds * SAMPLE_RATE_HZ));
  bell({ samples, start: 0 }, hz, 1);
  return samples;
}

/**
 * Synthesises a sound of the quay.
 *
 * @param seed  the same seed gives the same samples
 * @returns one channel at 48 kHz
 */
export function makeQuaySound(name: QuaySound, seed: number): Float32Array {
  const random = seededRandom(seed);
  switch (name) {
    case "netLoft":
      return netLoft(random);
    case "boatHouse":
      return boatHouse();
    case "lampRoom":
      return lampRoom(random);
    case "farewell":
      return farewell(random);
    case "fogBell":
      return struck(330, 4.4);
    case "buoy":
      return struck(660, 2.2);
  }
}
