/** A fan of 64 bands of whole files by the command line, beside SciPy doing the same in one thread where it is installed. */
import { spawnSync } from "node:child_process";
import { appendFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { ROOT } from "../../tools/setup.mjs";

const ONE_THREAD = { OMP_NUM_THREADS: "1", OPENBLAS_NUM_THREADS: "1" };
const FAN = ["--measure", "fan", "--layout", "mel", "--bands", "64", "--low", "40", "--high", "16000"];

function bumbrel(...args) {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [join(ROOT, "bench/pages/measured.mjs"), ...args],
    { encoding: "utf8" },
  );
  const figures = status === 0 ? JSON.parse(stdout) : { code: status };
  if (figures.code !== 0) throw new Error(`bumbrel ${args.join(" ")} failed: ${stderr}`);
  return figures;
}

/** @returns seconds, or `undefined` without SciPy */
function scipySeconds(sound, csv) {
  const began = performance.now();
  const { status } = spawnSync("python3", [join(ROOT, "bench/sound/fan.py"), sound, csv], {
    env: { ...process.env, ...ONE_THREAD },
  });
  return status === 0 ? (performance.now() - began) / 1000 : undefined;
}

/** Writes minutes of noise, a different one on either side, as 16-bit WAV at 48 kHz. */
function writeNoise(path, minutes) {
  const minute = new Int16Array(60 * 48_000 * 2);
  let state = 1;
  for (let i = 0; i < minute.length; i++) {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) | 0;
    minute[i] = state >> 18;
  }
  const header = Buffer.alloc(44);
  header.write("RIFF");
  header.writeUInt32LE(36 + minutes * minute.byteLength, 4);
  header.write("WAVEfmt ", 8);
  header.writeUInt32LE(16, 16);
  header.writeUInt16LE(1, 20);
  header.writeUInt16LE(2, 22);
  header.writeUInt32LE(48_000, 24);
  header.writeUInt32LE(4 * 48_000, 28);
  header.writeUInt16LE(4, 32);
  header.writeUInt16LE(16, 34);
  header.write("data", 36);
  header.writeUInt32LE(minutes * minute.byteLength, 40);
  writeFileSync(path, header);
  for (let i = 0; i < minutes; i++) appendFileSync(path, minute);
}

/** Prints the figures of a file of so many minutes of stereo. */
function measure(folder, minutes, line) {
  const [sound, csv] = [join(folder, "noise.wav"), join(folder, "fan.csv")];
  try {
    writeNoise(sound, minutes);
    const runs = Array.from({ length: 3 }, () => ({
      ours: bumbrel("trace", sound, ...FAN, "--csv", csv),
      scipyS: scipySeconds(sound, csv),
    })).sort((a, b) => a.ours.seconds - b.ours.seconds);
    const { seconds, processorS, megabytes } = runs[1].ours;
    const times = runs.map(({ scipyS }) => scipyS).sort((a, b) => a - b);
    const beside = times[1]
      ? `; SciPy ${times[1].toFixed(1)} s, ratio ${(seconds / times[1]).toFixed(2)}`
      : "";
    line(
      `fan of 64 bands, ${minutes} minutes of stereo, to CSV`,
      `${seconds.toFixed(1)} s, ${processorS.toFixed(1)} s of processor, ${megabytes.toFixed(0)} MB${beside}`,
    );
  } finally {
    for (const file of [sound, csv]) rmSync(file, { force: true });
  }
}

export function measureFans(folder, line) {
  for (const minutes of [5, 30]) measure(folder, minutes, line);
}
