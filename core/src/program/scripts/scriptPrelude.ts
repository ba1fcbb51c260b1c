import { CANVAS_OFFERS, GRADIENTS, MOST_RECORDED, RECORDING_HEAD, SPECIAL } from "../offers/canvasOffers";
import {
  MEMORY_COLUMNS,
  MEMORY_ROWS,
  SPECTRUM_HIGH_HZ,
  SPECTRUM_LOW_HZ,
  VALUE_NUMBERS,
  WAVE_SAMPLES,
} from "../offers/memory";
import { SCRIPT_OFFERS } from "../offers/scriptOffers";
import { SCRIPT_PAST_S } from "./scriptLimits";

/** Purpose that a sandbox is made ready for. */
export interface ScriptLayout {
  kind: "drawing" | "number";
  /** Columns of the memory of strands and fans. */
  columns: number;
  /** Sounds whose spectra and waveforms it reads. */
  sounds: number;
  /** Numbers that it gives each time. */
  bands: number;
  /** Exposed values, in order: each has {@link VALUE_NUMBERS} numbers. */
  values: readonly { name: string; type: string; words?: readonly string[] | undefined }[];
  /** Strands that a number is made of, in order: first column and count of each. */
  strands: readonly { first: number; count: number }[];
}

/** The largest number that is taken from a program; more would overflow single precision. */
const LARGEST = 1e30;

/**
 * Reading numbers, as the functions of GLSL programs do: rows of a hundredth of a second in a ring, linear between them.
 */
const READING = `
const at100 = (seconds) => Math.round((time * 100 - Math.min(${SCRIPT_PAST_S}, Math.max(0, +seconds || 0)) * 100) * 1e6) / 1e6;
const numberAt = (column, row) => row < 0 ? 0 : numbers[(row & ${MEMORY_ROWS - 1}) * layout.columns + column];
const numberBefore = (column, seconds) => {
  const at = at100(seconds);
  const row = Math.floor(at);
  const from = numberAt(column, row);
  return at === row ? from : from + (numberAt(column, row + 1) - from) * (at - row);
};
class Row {
  constructor() { this.first = 0; this.count = 0; }
  get length() { return this.count; }
  get value() { return this.before(0); }
  before(seconds) {
    if (this.count < 1) return 0;
    let sum = 0;
    for (let i = 0; i < this.count; i++) sum += numberBefore(this.first + i, seconds);
    return sum / this.count;
  }
  band(index, seconds = 0) {
    return this.count < 1 ? 0 : numberBefore(this.first + Math.min(this.count - 1, Math.max(0, Math.round(+index || 0))), seconds);
  }
  at(share, seconds = 0) {
    if (this.count < 1) return 0;
    const at = Math.min(1, Math.max(0, +share || 0)) * (this.count - 1);
    const low = Math.floor(at);
    const from = numberBefore(this.first + low, seconds);
    return at === low ? from : from + (numberBefore(this.first + low + 1, seconds) - from) * (at - low);
  }
  atHz(hz, seconds = 0) {
    if (this.count < 2) return this.band(0, seconds);
    let low = 0, high = this.count - 1;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (bandHz[this.first + middle] > hz) high = middle; else low = middle;
    }
    const from = bandHz[this.first + low], to = bandHz[this.first + high];
    const between = to > from ? Math.min(1, Math.max(0, (hz - from) / (to - from))) : 0;
    return this.at((low + between) / (this.count - 1), seconds);
  }
}
const levelAt = (spectrum, band, row) => row < 0 ? 0 : spectrum[(row & ${MEMORY_ROWS - 1}) * ${MEMORY_COLUMNS} + band];
class Sound {
  constructor() { this.number = -1; }
  level(hz, seconds = 0) {
    const spectrum = spectra[this.number];
    if (!spectrum) return 0;
    const share = Math.log(hz > 1 ? hz : 1) * ${1 / Math.log(SPECTRUM_HIGH_HZ / SPECTRUM_LOW_HZ)} - ${Math.log(SPECTRUM_LOW_HZ) / Math.log(SPECTRUM_HIGH_HZ / SPECTRUM_LOW_HZ)};
    const band = share > 0 ? (share < 1 ? share * ${MEMORY_COLUMNS - 1} : ${MEMORY_COLUMNS - 1}) : 0;
    const low = Math.floor(band), high = low < ${MEMORY_COLUMNS - 1} ? low + 1 : low, part = band - low;
    // Mostly what is asked for is now, on a row.
    if (seconds === 0 && nowAt >= 0) {
      const from = spectrum[nowAt + low];
      return from + (spectrum[nowAt + high] - from) * part;
    }
    const at = at100(seconds), row = Math.floor(at);
    const before = mix(levelAt(spectrum, low, row), levelAt(spectrum, high, row), part);
    return at === row ? before : mix(before, mix(levelAt(spectrum, low, row + 1), levelAt(spectrum, high, row + 1), part), at - row);
  }
  wave(milliseconds) {
    if (!spectra[this.number]) return 0;
    const at = Math.min(${WAVE_SAMPLES - 1}, Math.max(0, (+milliseconds || 0) * 48 + ${WAVE_SAMPLES / 2}));
    const low = Math.floor(at), start = this.number * ${WAVE_SAMPLES};
    const from = waves[start + low];
    return from + ((waves[start + Math.min(low + 1, ${WAVE_SAMPLES - 1})]) - from) * (at - low);
  }
}`;

/** Written into each call instead of being called: this is what drawings do most. */
const room = (length: number) => `if (end > ${MOST_RECORDED - length}) full();`;

/** Recording what a drawing does with its canvas, as numbers; words and colours are kept once and counted. */
function recorder(): string {
  const members = CANVAS_OFFERS.map(({ name, records }, number) => {
    if ("value" in records) {
      const key = JSON.stringify(name);
      const take =
        typeof records.value === "string"
          ? name === "fillStyle" || name === "strokeStyle"
            ? `if (typeof v === "object" && v instanceof Gradient) { useGradient(${name === "fillStyle" ? 0 : 1}, v); } else { ${room(2)} tape[end++] = ${number}; tape[end++] = numbersOfWords.get(v) ?? word(v); }`
            : `${room(2)} tape[end++] = ${number}; tape[end++] = numbersOfWords.get(v) ?? word(v);`
          : `${room(2)} tape[end++] = ${number}; tape[end++] = v;`;
      return `get ${name}() { return style[${key}]; } set ${name}(v) { style[${key}] = v; ${take} }`;
    }
    const parameters = [...Array(records.numbers).keys()].map((i) => `a${i}`);
    const length = 1 + parameters.length + (records.words ? 1 : 0);
    const before =
      name === "save"
        ? "saved.push({ ...style });"
        : name === "restore"
          ? "if (saved.length > 0) style = saved.pop();"
          : "";
    return `${name}(${[...(records.words ? ["t"] : []), ...parameters].join(", ")}) { ${before} ${room(length)} tape[end++] = ${number}; ${
      records.words ? "tape[end++] = word(t); " : ""
    }${parameters.map((one) => `tape[end++] = ${one};`).join(" ")} }`;
  });
  const styles = Object.fromEntries(
    CANVAS_OFFERS.flatMap(({ name, records }) => ("value" in records ? [[name, records.value]] : [])),
  );
  return `
const tape = new Float64Array(buffers.tape);
let end = ${RECORDING_HEAD};
const START = ${JSON.stringify(styles)};
let style = { ...START };
let saved = [];
const words = [];
const numbersOfWords = new Map();
function word(text) {
  const key = typeof text === "string" ? text : String(text);
  let number = numbersOfWords.get(key);
  if (number === undefined) {
    if (words.length >= 4096 || key.length > 1000) throw new RangeError("More than 4096 different colours and texts, or one longer than 1000 letters.");
    number = words.push(key) - 1;
    numbersOfWords.set(key, number);
  }
  return number;
}
function full() { throw new RangeError("It draws too much: ${MOST_RECORDED} numbers a picture at most."); }
class Gradient {
  constructor(kind, numbers) { this.kind = kind; this.numbers = numbers; this.stops = []; }
  addColorStop(at, colour) { this.stops.push(clamp(+at || 0, 0, 1), word(colour)); }
}
function special(number, list) {
  if (end + 2 + list.length > tape.length) full();
  tape[end++] = number;
  tape[end++] = list.length;
  for (const one of list) tape[end++] = one;
}
const useGradient = (target, { kind, numbers, stops }) => special(${SPECIAL.gradient}, [target, kind, ...numbers, ...stops]);
class Canvas {
  ${members.join("\n  ")}
  setLineDash(lengths) { special(${SPECIAL.lineDash}, lengths); }
  drawImage(picture, ...numbers) { if (picture && picture.number >= 0) special(${SPECIAL.image}, [picture.number, ...numbers]); }
  ${GRADIENTS.map(({ name }, kind) => `${name}(...numbers) { return new Gradient(${kind}, numbers); }`).join("\n  ")}
}
const canvas = new Canvas();`;
}

/**
 * Code that runs in a sandbox before a program: JavaScript whose value is a function. Given {@link ScriptLayout} it makes ready
 * what the program reads, and returns what the host calls and fills.
 */
export function scriptPrelude(kind: ScriptLayout["kind"]): string {
  return `(function (layout, buffers) {
"use strict";
${SCRIPT_OFFERS.map(({ code }) => code).join("\n")}
${SCRIPT_OFFERS.map(({ name }) => `globalThis.${name} = ${name};`).join(" ")}
let time = 0;
// First row of the spectra of now; -1 between two rows.
let nowAt = -1;
const numbers = new Float32Array(buffers.numbers);
const bandHz = new Float32Array(buffers.bandHz);
const waves = new Float32Array(buffers.waves);
const values = new Float64Array(buffers.values);
const spectra = Array.from({ length: layout.sounds }, (_, i) => new Float32Array(buffers["spectrum" + i]));
${READING}
let seed = 1;
const random = () => {
  // Numbers from a counter: the same for the same step, whatever came before.
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
};
Math.random = random;
delete globalThis.SharedArrayBuffer;
delete globalThis.Atomics;
const set = {};
const readers = layout.values.map(({ name, type, words }, i) => {
  const at = i * ${VALUE_NUMBERS};
  if (type === "strand" || type === "fan") {
    const row = set[name] = new Row();
    return () => { row.first = values[at]; row.count = values[at + 1]; };
  }
  if (type === "sound") {
    const sound = set[name] = new Sound();
    return () => { sound.number = values[at]; };
  }
  if (type === "picture") {
    const picture = set[name] = { number: -1, width: 0, height: 0 };
    return () => { picture.number = values[at]; picture.width = values[at + 1]; picture.height = values[at + 2]; };
  }
  if (type === "colour") {
    const byte = (light) => Math.round(255 * clamp(light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055, 0, 1));
    return () => { set[name] = "rgb(" + byte(values[at]) + " " + byte(values[at + 1]) + " " + byte(values[at + 2]) + ")"; };
  }
  if (type === "vector") return () => { set[name] = [values[at], values[at + 1], values[at + 2]]; };
  if (type === "switch") return () => { set[name] = values[at] >= 0.5; };
  if (type === "choice") return () => { set[name] = words[Math.round(values[at])] ?? words[0]; };
  return () => { set[name] = values[at]; };
});
let memory = {};
const moment = { time: 0, step: 0, memory, random };
function begin(step, seconds) {
  time = seconds;
  const row = at100(0);
  nowAt = row === Math.floor(row) ? (row & ${MEMORY_ROWS - 1}) * ${MEMORY_COLUMNS} : -1;
  seed = Math.imul(step + 1, 0x9e3779b1) | 0;
  moment.time = seconds;
  moment.step = step;
  moment.memory = memory;
  for (const read of readers) read();
}
const forget = () => { memory = {}; };
${kind === "drawing" ? DRAWING(recorder()) : NUMBER}
// The host writes into the buffers: none may be collected.
return { forget, buffers, ...own };
})`;
}

const DRAWING = (recorder: string) => `
${recorder}
const own = {
  run(step, seconds, width, height) {
    begin(step, seconds);
    moment.width = width;
    moment.height = height;
    end = ${RECORDING_HEAD};
    style = { ...START };
    saved = [];
    globalThis.draw(canvas, moment, set);
    tape[0] = end;
    tape[1] = words.length;
  },
  wordsFrom: (first) => JSON.stringify(words.slice(first)),
};`;

const NUMBER = `
const out = new Float32Array(buffers.out);
const sound = new Sound();
if (layout.sounds > 0) sound.number = 0;
moment.sound = sound;
moment.strands = layout.strands.map(({ first, count }) => { const row = new Row(); row.first = first; row.count = count; return row; });
const own = {
  run(step, seconds) {
    begin(step, seconds);
    const given = globalThis.next(moment, set);
    for (let i = 0; i < out.length; i++) {
      const one = typeof given === "number" ? given : given?.[i];
      out[i] = typeof one === "number" && one === one ? clamp(one, -${LARGEST}, ${LARGEST}) : 0;
    }
  },
};`;
