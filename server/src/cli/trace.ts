import { FFT_SIZES, FRAME_RATE_HZ } from "@bumbrel/core/constants";
import { FAN_COMBINES, FAN_LAYOUTS, MOST_BANDS, OCTAVE_FRACTIONS } from "@bumbrel/core/dsp/fanBands";
import { mixToMono } from "@bumbrel/core/dsp/mix";
import { WINDOW_NAMES } from "@bumbrel/core/dsp/window";
import { parseSceneText } from "@bumbrel/core/format/sceneFile";
import { readProjectSound } from "@bumbrel/core/format/sound";
import { csvField } from "@bumbrel/core/format/table";
import { inMakingOrder, sourcesOf, strandsSignal } from "@bumbrel/core/scene/combining";
import type { Scene } from "@bumbrel/core/scene/document";
import { isMade, makeSound, partsOf, signalOf } from "@bumbrel/core/scene/soundSource";
import { analyseStrand } from "@bumbrel/core/strand/analyse";
import {
  canMeasure,
  isUpsideDown,
  type Measure,
  measureSound,
  measureWidth,
} from "@bumbrel/core/strand/measures";
import type { Signal } from "@bumbrel/core/strand/signal";
import { CachedSpectra, DirectSpectra } from "@bumbrel/core/strand/spectrumSource";
import { columnNames, figure, rawFigure, strandTable, type TableStrand } from "@bumbrel/core/strand/tables";
import type { Track } from "@bumbrel/core/strand/track";
import { type Command, type Console, parsed, readBytes, UsageError, writeBytes } from "./command";
import { MEASURE_FLAGS, measureFromFlags } from "./measureFlags";

/** A file as strands hear it: the mean of its channels, and the channels for what is defined over them. */
export function readSignal(path: string): Signal {
  const { channels } = readProjectSound(readBytes(path), path);
  return { samples: mixToMono(channels).samples, channels };
}

export const trace: Command = {
  name: "trace",
  summary: "prints a measure of a sound, or a scene's strands on it, 100 rows a second",
  help: `bumbrel trace FILE.wav --measure MEASURE [options]
bumbrel trace FILE.wav --scene SCENE.json [--csv OUT|-]

Prints a row for each frame: frame k describes the instant k / 100 s, and every instant before the end of the sound
has one. The sound is brought to 48 kHz and its channels are averaged first; samples before its start and after its
end count as 0. Spectra have powers P[k] = c |X[k]|^2 / (N sum w^2), c = 2 for inner bins and 1 for DC and Nyquist.

With --measure the columns are time_s,value; a fan has one column a band, pitch has value and certainty.
With --scene they are time_s, then for each strand "NAME raw" and "NAME shaped": every strand that listens to a file,
a note file, a table, an input or a bus hears FILE.wav; one that listens to a tone, a noise or a clock hears that.

Measures (levels are linear, a full-scale sine in the band reads 1 = 0 dBFS; silence is exactly 0):
  band          sqrt(2 sum P) over [low, high], a bin counting by the share of its width inside; needs --low, --high
  peak          largest magnitude of the 480 samples centred on the instant
  rms           root of the mean square of those 480 samples
  meanAbsolute  mean magnitude of those 480 samples
  aWeighted     sqrt(2 sum A^2 P), A by IEC 61672-1
  momentary     LUFS over 400 ms centred on the instant, K-weighted, ungated, all channels (BS.1770-5)
  shortTerm     the same over 3 s. Silence prints -200
  onset         mean over quarter-tone bands in [low, high] of max(0, Y[k] - max of three neighbours of Y[k - lag]),
                Y = log10(1 + 1000 level) / log10(1001) (Boeck & Widmer 2013): 0 to 1
  brightness    spectral centroid in Hz: sum f sqrt(P) / sum sqrt(P)
  pitch         YIN in Hz between --low and --high (60 to 1500 unless said); 0 below --certainty (0.8)
  certainty     one minus YIN's normalised difference, 0 to 1
  fan           a row of bands over [low, high]
  beatPhase     0 to 1 over each beat: tempo by autocorrelation of onset strength, beats by dynamic programming
                (Ellis 2007), 50 to 200 BPM
  barPhase      0 to 1 over --beats-per-bar beats (4)
  position      share of the sound played

Options:
  --low HZ, --high HZ   the range, 0 to 24000, low below high
  --fft SIZE            ${FFT_SIZES.join(", ")} (2048)
  --window NAME         ${WINDOW_NAMES.join(", ")} (hann)
  --layout NAME         ${FAN_LAYOUTS.join(", ")} (octave)
                        equal: equally wide. octave: IEC 61260-1, those whose mid-band frequency lies in the range.
                        doubling: each twice as wide as the one below. constantQ: low 2^(i/per-octave). mel: equally
                        wide on 2595 log10(1 + f/700)
  --bands N             1 to ${MOST_BANDS}; for octave and constantQ the most that are kept. Octave bands without a
                        range begin at 63 Hz, or lower where they would not fit below 22 kHz
  --per-octave N        ${OCTAVE_FRACTIONS.join(", ")} (1)
  --combine NAME        ${FAN_COMBINES.join(", ")} (sum): the band's level; its power spread over its bins; its strongest bin
  --tilt DB             dB an octave that are added, 0 at 1 kHz
  --certainty SHARE     for pitch
  --csv OUT             writes to the file OUT; - is standard output, as without it

Example: bumbrel trace song.wav --measure band --low 80 --high 160 --csv kick.csv
         bumbrel trace song.wav --measure fan --layout octave --bands 8
`,
  run(args, console) {
    const { values, positionals } = parsed(
      args,
      { ...MEASURE_FLAGS, scene: { type: "string" }, csv: { type: "string" } },
      ["FILE.wav"],
    );
    const [path] = positionals;
    let csv: string;
    if (values.scene !== undefined) {
      const flag = Object.keys(MEASURE_FLAGS).find(
        (name) => values[name as keyof typeof MEASURE_FLAGS] !== undefined,
      );
      if (flag)
        throw new UsageError(
          `--${flag} has no meaning beside --scene, whose strands have measures of their own`,
        );
      const scene = parseSceneText(new TextDecoder().decode(readBytes(values.scene)));
      csv = traceScene(scene, readSignal(path), console);
    } else {
      const measure = measureFromFlags(values);
      csv = traceMeasure(readSignal(path), measure);
    }
    if (values.csv === undefined || values.csv === "-") console.out(csv);
    else writeBytes(values.csv, csv);
    return 0;
  },
};

function traceMeasure(signal: Signal, measure: Measure): string {
  const spectra = new CachedSpectra();
  const raw = measureSound(signal, measure, spectra);
  const width = measureWidth(measure);
  const columns: { head: string; value(frame: number): number }[] = [];
  if (measure.kind === "pitch") {
    const { lowHz, highHz } = measure;
    const certainty = measureSound(signal, { kind: "certainty", lowHz, highHz }, spectra);
    columns.push(
      { head: "value", value: (frame) => raw[frame] },
      { head: "certainty", value: (frame) => certainty[frame] },
    );
  } else if (measure.kind === "fan") {
    columnNames("band", measure, width).forEach((head, band) => {
      columns.push({ head, value: (frame) => raw[frame * width + band] });
    });
  } else {
    columns.push({ head: "value", value: (frame) => rawFigure(measure, raw[frame]) });
  }
  const rows = [["time_s", ...columns.map(({ head }) => csvField(head))].join(",")];
  for (let frame = 0; frame < raw.length / width; frame++) {
    const numbers = columns.map(({ value }) => figure(value(frame)));
    rows.push([(frame / FRAME_RATE_HZ).toFixed(2), ...numbers].join(","));
  }
  return `${rows.join("\n")}\n`;
}

function traceScene(scene: Scene, file: Signal, console: Console): string {
  const spectra = new DirectSpectra();
  const tapeS = file.samples.length / 48_000;
  const tracks = new Map<string, Track>();
  const traced = new Map<string, TableStrand>();
  const skip = (name: string, why: string) =>
    console.error(`bumbrel trace: the strand "${name}" is left out: ${why}\n`);
  for (const strand of inMakingOrder(scene)) {
    const { listensTo, measure, name } = strand;
    let signal: Signal | undefined = file;
    if (listensTo.kind === "strands") {
      signal = strandsSignal(
        sourcesOf(scene, strand).map(({ id }) => tracks.get(id)),
        tapeS,
      );
    } else {
      const sound =
        listensTo.kind === "sound" ? scene.sounds.find(({ id }) => id === listensTo.id) : undefined;
      if (sound && isMade(sound)) signal = signalOf(makeSound(sound), sound);
      else if (!canMeasure(measure.kind, partsOf("file"))) signal = undefined;
    }
    if (!signal) {
      skip(name, "FILE.wav does not have what it reads");
      continue;
    }
    if (isUpsideDown(measure)) {
      skip(name, "its range is upside down");
      continue;
    }
    const { raw, shaped } = analyseStrand(signal, strand, spectra);
    tracks.set(strand.id, shaped);
    traced.set(strand.id, { name, measure, raw, shaped: shaped.values, width: shaped.width });
  }
  // In the order they stand in the scene.
  return strandTable(scene.strands.flatMap(({ id }) => traced.get(id) ?? []));
}
