import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { FADER_OFF_DB, FADER_TOP_DB, faderGain } from "@bumbrel/core/dsp/decibel";
import type { SoundFacts } from "@bumbrel/core/format/sound";
import type { Scene, Sound } from "@bumbrel/core/scene/document";
import { samplesKey } from "@bumbrel/core/scene/soundSource";
import { Ear, Headphones, Trash2, Volume2 } from "lucide-react";
import { useEffect } from "react";
import { useSnapshot, useWorkbench } from "../project/context";
import { useUi } from "../project/ui";
import { IconButton } from "../ui/Button";
import { drawWaveform } from "../ui/drawWaveform";
import { formatDb, formatLength } from "../ui/format";
import { NameField } from "../ui/NameField";
import { SliderField } from "../ui/SliderField";
import { themeColour } from "../ui/strandLook";
import { useCanvas } from "../ui/useCanvas";
import { editSound, removeSound } from "./edits";
import { MadeSettings } from "./MadeSettings";

/** One sound: what it is, whether it is heard, and how loud. */
export function SoundRow({ sound, scene }: { sound: Sound; scene: Scene }) {
  const workbench = useWorkbench();
  const key = samplesKey(sound);
  const facts = workbench.facts.get(key);
  const failure = workbench.soundFailures.get(key);
  const badSamples = workbench.sounds.get(key)?.badSampleCount ?? 0;
  const users = scene.strands.filter(({ soundId }) => soundId === sound.id).length;
  const change = (label: string, apply: (sound: Sound) => void, gesture?: string) =>
    editSound(workbench, sound, label, apply, gesture);
  return (
    <li className="grid grid-cols-[minmax(330px,1.1fr)_minmax(0,1.4fr)_170px_180px_auto] items-center gap-5 border-t border-rule py-3">
      <div>
        <NameField
          label="Sound name"
          className="w-full px-0 text-lg"
          value={sound.name}
          onRename={(name) =>
            change("rename", (one) => {
              one.name = name;
            })
          }
        />
        {sound.kind === "file" ? facts && <FileFacts facts={facts} /> : <MadeSettings sound={sound} />}
        <p className="text-sm text-mist">
          {users === 0
            ? "no strand listens"
            : `${users} ${users === 1 ? "strand listens" : "strands listen"}`}
        </p>
        {badSamples > 0 && (
          <p className="text-sm text-alarm">{badSamples} damaged samples count as silence</p>
        )}
      </div>
      {failure ? (
        <p role="alert" className="text-sm text-alarm">
          {failure}
        </p>
      ) : (
        <RowWaveform sound={sound} />
      )}
      <fieldset className="inline-flex overflow-hidden rounded-full border border-rule text-sm">
        <legend className="sr-only">Whether {sound.name} is heard</legend>
        {[true, false].map((heard) => (
          <button
            key={String(heard)}
            type="button"
            aria-pressed={sound.heard === heard}
            title={heard ? "Heard by the audience" : "Only listened to by strands"}
            className={`flex grow items-center justify-center gap-1.5 py-1 ${sound.heard === heard ? "bg-brass text-on-brass" : "text-mist hover:text-paper"}`}
            onClick={() =>
              change(heard ? "let people hear" : "only listen to", (one) => {
                one.heard = heard;
              })
            }
          >
            {heard ? <Volume2 size={15} aria-hidden /> : <Ear size={15} aria-hidden />}
            {heard ? "heard" : "silent"}
          </button>
        ))}
      </fieldset>
      {sound.heard ? (
        <SliderField
          label="Fader"
          unit="dB"
          min={FADER_OFF_DB}
          max={FADER_TOP_DB}
          step={0.1}
          value={sound.faderDb}
          onChange={(db) =>
            change(
              "move the fader of",
              (one) => {
                one.faderDb = db;
              },
              `fader ${sound.id}`,
            )
          }
          onDone={() => workbench.endGesture()}
        />
      ) : (
        <p className="flex items-center gap-2 text-sm text-mist">
          <Headphones size={15} aria-hidden /> only strands listen
        </p>
      )}
      <IconButton label={`Remove ${sound.name}`} onClick={() => removeSound(workbench, sound)}>
        <Trash2 size={16} />
      </IconButton>
      {sound.heard && faderGain(sound.faderDb) === 0 && (
        <p className="col-span-5 text-sm text-mist">The fader is all the way down: nothing is heard of it.</p>
      )}
    </li>
  );
}

function FileFacts({ facts }: { facts: SoundFacts }) {
  const { durationS, originalRateHz, channels, peak, integratedLufs } = facts;
  return (
    <>
      <p className="text-sm text-mist">
        <span className="figures">{formatLength(durationS)}</span> · {originalRateHz / 1000} kHz ·{" "}
        {["", "mono", "stereo"][channels] ?? `${channels} channels`}
      </p>
      <p className="text-sm text-mist">
        peak {formatDb(peak)}FS
        {Number.isFinite(integratedLufs) && ` · ${integratedLufs?.toFixed(1).replace("-", "−")} LUFS`}
      </p>
    </>
  );
}

/** Cycles of a tone that show its shape; all of a tone at once would be a solid block. */
const SHOWN_CYCLES = 8;

function RowWaveform({ sound }: { sound: Sound }) {
  const workbench = useWorkbench();
  const { dataVersion } = useSnapshot();
  const theme = useUi((state) => state.theme);
  const canvas = useCanvas(() => draw());
  const key = samplesKey(sound);
  const shownS = sound.kind === "tone" ? SHOWN_CYCLES / sound.hz : undefined;
  const draw = () => {
    const context = canvas.context();
    const { width, height } = canvas.size.current;
    if (!context) return;
    context.clearRect(0, 0, width, height);
    context.fillStyle = themeColour("mist");
    const mono = workbench.sounds.get(key)?.mono;
    if (!mono) {
      context.font = "14px 'Atkinson Hyperlegible Next Variable', sans-serif";
      context.fillText(sound.kind === "file" ? "Fetching …" : "Making …", 12, height / 2 + 5);
    } else if (shownS === undefined) {
      drawWaveform(context, workbench.waveform(key)!, width, height);
    } else {
      drawLine(context, mono.subarray(0, Math.round(shownS * SAMPLE_RATE_HZ)), width, height);
    }
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what the drawing reads
  useEffect(draw, [key, dataVersion, theme]);
  const label = shownS === undefined ? "Waveform" : `The first ${SHOWN_CYCLES} cycles`;
  return (
    <figure>
      <canvas ref={canvas.ref} className="h-16 w-full rounded bg-sunk" role="img" aria-label={label} />
      {shownS !== undefined && (
        <figcaption className="text-right text-xs text-mist">{label.toLowerCase()}</figcaption>
      )}
    </figure>
  );
}

/** Samples as a line, one after the other. */
function drawLine(
  context: CanvasRenderingContext2D,
  samples: Float32Array,
  width: number,
  height: number,
): void {
  context.beginPath();
  samples.forEach((sample, i) => {
    context.lineTo((i / Math.max(1, samples.length - 1)) * width, (1 - sample * 0.92) * 0.5 * height);
  });
  context.strokeStyle = themeColour("mist");
  context.lineWidth = 1.5;
  context.stroke();
}
