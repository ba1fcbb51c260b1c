import { analyseScene } from "@bumbrel/core/analyse/tracks";
import { parseSceneText } from "@bumbrel/core/check/readScene";
import { FFT_SIZES, FRAME_RATE_HZ } from "@bumbrel/core/constants";
import { runnableScene } from "@bumbrel/core/document/programsAllowed";
import type { Scene } from "@bumbrel/core/document/scene";
import { finish } from "@bumbrel/core/dsp/maths/slices";
import { FAN_COMBINES, FAN_LAYOUTS, MAX_BANDS, OCTAVE_FRACTIONS } from "@bumbrel/core/dsp/spectrum/fanBands";
import { WINDOW_NAMES } from "@bumbrel/core/dsp/spectrum/window";
import { figure } from "@bumbrel/core/format/bytes/figure";
import { csvField } from "@bumbrel/core/format/table";
import { longFileSound } from "@bumbrel/core/sound/fileSound";
import { isMade, isStored, newSoundBasics, type Sound, type SoundBasics } from "@bumbrel/core/sound/kinds";
import { SOUND_PART_NAMES } from "@bumbrel/core/sound/parts";
import type { SoundData } from "@bumbrel/core/sound/signal";
import { readStoredSound } from "@bumbrel/core/sound/stored";
import { partSignalSliced } from "@bumbrel/core/strand/hearing/partSignal";
import type { Signal } from "@bumbrel/core/strand/hearing/signal";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { type Measure, measureSound, measureWidth } from "@bumbrel/core/strand/measures/table";
import { columnNames, rawFigure, strandRows, type TableStrand } from "@bumbrel/core/strand/tables";
import { leftOut } from "../projects/foreignPrograms";
import {
  type Command,
  type Console,
  choiceFlag,
  type ExitCode,
  openSound,
  parsed,
  readBytes,
  UsageError,
  writeText,
} from "../support/command";
import { MEASURE_FLAGS, measureFromFlags } from "./measureFlags";

/** A file as strands hear it: the mean of its channels, and the channels for what is defined over them. */
export function readSignal(path: string, console: Console): Signal {
  const { mono, channels, weights } = longFileSound(openSound(path, console));
  return { samples: mono, channels, weights };
}

export const trace: Command = {
  help: `bumbrel trace FILE.wav --measure MEASURE [options]
bumbrel trace FILE.wav --scene SCENE.json [--sound NAME=FILE …] [--csv OUT|-]

Prints a row for each frame: frame k describes the instant k / 100 s, and every instant before the end of the sound
has one. The sound is brought to 48 kHz and its channels are averaged first; samples before its start and after its
end count as 0. Spectra have powers P[k] = c |X[k]|^2 / (N sum w^2), c = 2 for inner bins and 1 for DC and Nyquist.

With --measure the columns are time_s,value; a fan has one column a band, pitch has value and certainty.
With --scene they are time_s, then for each strand "NAME raw" and "NAME shaped", as the workbench computes them: before
or after faders, through buses, with distances. Every stored or live sound is read from FILE.wav unless --sound names
another file for it; tones, noises and clocks are made as the scene says.

Measures (levels are linear, a full-scale sine in the band reads 1 = 0 dBFS; silence is exactly 0):
  band          sqrt(2 sum P) over [low, high], a bin counting by the share of its width inside; needs --low, --high
  peak          largest magnitude of the 480 samples centred on the instant
  rms           root of the mean square of those 480 samples
  meanAbsolute  mean magnitude of those 480 samples
  aWeighted     level over 40 ms, weighted by a filter within class 1 of IEC 61672-1
  momentary     LUFS over 400 ms centred on the instant, K-weighted, ungated, all channels (BS.1770-5)
  shortTerm     the same over 3 s. Silence prints -200
  onset         mean over quarter-tone bands in [low, high] of max(0, Y[k] - max of three neighbours of Y[k - lag]),
                Y = log10(1 + 1000 level) / log10(1001) (Boeck & Widmer 2013): 0 to 1
  brightness    spectral centroid in Hz: sum f sqrt(P) / sum sqrt(P), or by --weights power sum f P / sum P, of
                bins above --floor
  pitch         in Hz between --low and --high (60 to 1500 unless said), the likeliest row of periods over the whole
                sound (probabilistic YIN, Mauch & Dixon 2014); 0 below --certainty (0.8)
  certainty     one minus YIN's normalised difference, 0 to 1
  fan           a row of bands over [low, high]
  beatPhase     0 to 1 over each beat: a bar-pointer model over low, middle and high onsets, the likeliest row of
                beats of the whole sound (Krebs, Boeck & Widmer 2015), 40 to 214 BPM; 0 below --certainty (0.2)
  barPhase      0 to 1 over --beats-per-bar beats (4)
  beatCertainty how sure the beats are, 0 to 1
  position      share of the sound played

Options:
  --low HZ, --high HZ   the range, 0 to 24000, low below high
  --fft SIZE            ${FFT_SIZES.join(", ")} (2048)
  --window NAME         ${WINDOW_NAMES.join(", ")} (hann)
  --layout NAME         ${FAN_LAYOUTS.join(", ")} (octave)
                        equal: equally wide. octave: IEC 61260-1, those whose mid-band frequency lies in the range.
                        doubling: each twice as wide as the one below. constantQ: low 2^(i/per-octave). mel: equally
                        wide on 2595 log10(1 + f/700). pitchClasses: twelve, C to B, each of all its semitones in
                        the range (130 to 2100 unless said), A4 = 440 Hz, from FFTs of up to 16384
  --bands N             1 to ${MAX_BANDS}; for octave and constantQ the most that are kept. Octave bands without a
                        range begin at 63 Hz, or lower where they would not fit below 22 kHz
  --per-octave N        ${OCTAVE_FRACTIONS.join(", ")} (1)
  --combine NAME        ${FAN_COMBINES.join(", ")} (sum): the band's level; its power spread over its bins; its strongest bin
  --tilt DB             dB an octave that are added, 0 at 1 kHz
  --part PART           percussive, harmonic: what is heard of the sound, by medians of its spectra (Fitzgerald 2010),
                        in one channel
  --certainty SHARE     for pitch and beats: less certain counts as none
  --sound NAME=FILE     with --scene: the file of one sound; can be given several times
  --narrow-bands WAY    same, longer: for fans, whether low bands are read from longer FFTs (same)
  --weights KIND        magnitude, power: for brightness
  --floor DB            for brightness: bins fainter than this do not count (-160: all do)
  --beats-per-bar N     1 to 32 (4); bars of 3, 4 and 6 are known by their usual rhythms
  --count WAY           heard, half, double: beats as heard, every other one, or one more between each two
  --one-at S            a bar begins at the beat nearest to this time
  --allow-programs      lets programs of the scene run; without it strands made by programs are left out
  --csv OUT             writes to the file OUT; - is standard output, as without it

Example: bumbrel trace song.wav --measure band --low 80 --high 160 --csv kick.csv
         bumbrel trace song.wav --measure fan --layout octave --bands 8
`,
  async run(args, console): Promise<ExitCode> {
    const { values, positionals } = parsed(
      args,
      {
        ...MEASURE_FLAGS,
        part: { type: "string" },
        scene: { type: "string" },
        "allow-programs": { type: "boolean" },
        sound: { type: "string", multiple: true },
        csv: { type: "string" },
      },
      ["FILE.wav"],
    );
    const [path] = positionals;
    let csv: Iterable<string>;
    if (values.scene !== undefined) {
      const flag = [...Object.keys(MEASURE_FLAGS), "part"].find(
        (name) => values[name as keyof typeof MEASURE_FLAGS | "part"] !== undefined,
      );
      if (flag)
        throw new UsageError(
          `--${flag} has no meaning beside --scene, whose strands have measures of their own`,
        );
      const scene = parseSceneText(new TextDecoder().decode(readBytes(values.scene)));
      const programsAllowed = values["allow-programs"] === true;
      if (!programsAllowed && scene.programs.length > 0) console.error(leftOut(scene));
      csv = await traceScene(runnableScene({ scene, programsAllowed }), path, values.sound ?? [], console);
    } else {
      if (values.sound) throw new UsageError("--sound has a meaning beside --scene only");
      const measure = measureFromFlags(values);
      const part = values.part === undefined ? undefined : choiceFlag("part", values.part, SOUND_PART_NAMES);
      const signal = readSignal(path, console);
      csv = traceMeasure(part ? finish(partSignalSliced(signal, part)) : signal, measure);
    }
    writeText(values.csv, csv, console);
    return 0;
  },
};

/** Rows that are put together at a time. */
const ROWS_A_PIECE = 1000;

function* traceMeasure(signal: Signal, measure: Measure): Generator<string> {
  const spectra = new DirectSpectra();
  const read = (one: Measure) => ({
    measure: one,
    raw: measureSound(signal, one, spectra),
    width: measureWidth(one),
  });
  const tables = [read(measure)];
  let heads = ["value"];
  if (measure.kind === "pitch") {
    const { lowHz, highHz } = measure;
    tables.push(read({ kind: "certainty", lowHz, highHz }));
    heads.push("certainty");
  } else if (measure.kind === "fan") heads = columnNames("band", measure, tables[0].width);
  yield `${["time_s", ...heads.map(csvField)].join(",")}\n`;
  const frames = tables[0].raw.length / tables[0].width;
  for (let from = 0; from < frames; from += ROWS_A_PIECE) {
    let piece = "";
    for (let frame = from; frame < Math.min(frames, from + ROWS_A_PIECE); frame++) {
      piece += (frame / FRAME_RATE_HZ).toFixed(2);
      for (const { raw, width, measure: one } of tables)
        for (let i = frame * width; i < (frame + 1) * width; i++)
          piece += `,${figure(rawFigure(one, raw[i]))}`;
      piece += "\n";
    }
    yield piece;
  }
}

/** A sound of the scene and the file it is read from. */
const SOUND_FLAG = /^(.+?)=(.+)$/;

/**
 * The strands of a scene as the workbench computes them: through faders, buses and distances.
 *
 * @param path  read by every stored or live sound that no other file is given for
 * @param others  NAME=FILE for single sounds
 */
async function traceScene(
  scene: Scene,
  path: string,
  others: readonly string[],
  console: Console,
): Promise<Iterable<string>> {
  const files = new Map<string, string>();
  for (const other of others) {
    const [, name, file] = SOUND_FLAG.exec(other) ?? [];
    const sound = scene.sounds.find((one) => one.name === name);
    if (!sound)
      throw new UsageError(`--sound ${other}: the scene has no sound of that name; write NAME=FILE`);
    files.set(sound.id, file);
  }
  // A live sound has no samples of its own: the file stands in for what it would hear.
  const sounds = scene.sounds.map((sound): Sound => {
    if (isMade(sound) || files.has(sound.id)) return sound;
    return { ...strip(sound), kind: "file", storedId: `file-${sound.id}` };
  });
  const heard: Scene = { ...scene, sounds };
  const known = new Map<string, SoundData>();
  const dataOf = (sound: Sound): SoundData => {
    const file = files.get(sound.id) ?? path;
    let data = known.get(file);
    if (!data) {
      data =
        isStored(sound) && sound.kind !== "file"
          ? readStoredSound({ kind: sound.kind, name: file }, readBytes(file))
          : longFileSound(openSound(file, console));
      known.set(file, data);
    }
    return data;
  };
  const { numbers, failures } = await analyseScene(heard, dataOf, heard.strands);
  const traced = scene.strands.flatMap(({ id, name, measure }): TableStrand[] => {
    const found = numbers.get(id);
    if (found) return [{ name, measure, raw: found.raw, shaped: found.shaped, width: found.width }];
    const why = failures.get(id) ?? "it listens to nothing";
    console.error(`bumbrel trace: the strand "${name}" is left out: ${why}\n`);
    return [];
  });
  return strandRows(traced);
}

/** Keeps only the fields that every kind of sound has. */
function strip(sound: Sound): SoundBasics {
  const keys = Object.keys(newSoundBasics(sound.id, sound.name)) as (keyof SoundBasics)[];
  return Object.fromEntries(keys.map((key) => [key, sound[key]])) as unknown as SoundBasics;
}
