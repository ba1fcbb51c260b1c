import { FADER_OFF_DB, FADER_TOP_DB, faderGain } from "@bumbrel/core/dsp/decibel";
import type { SoundFacts } from "@bumbrel/core/format/sound";
import type { Scene, Sound } from "@bumbrel/core/scene/document";
import { samplesKey } from "@bumbrel/core/scene/soundSource";
import { Ear, Headphones, Trash2, Volume2 } from "lucide-react";
import { useEffect } from "react";
import { useSnapshot, useWorkbench } from "../project/context";
import { useUi } from "../project/ui";
import { IconButton } from "../ui/Button";
import { formatDb, formatLength } from "../ui/format";
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
    <li className="grid grid-cols-[minmax(150px,1fr)_minmax(0,2.4fr)_170px_180px_auto] items-center gap-5 border-t border-rule py-3">
      <div>
        <input
          aria-label="Sound name"
          className="w-full truncate rounded border border-transparent bg-transparent text-lg font-semibold hover:border-rule"
          defaultValue={sound.name}
          key={sound.name}
          onBlur={(event) => {
            const name = event.target.value.trim().slice(0, 120);
            if (name && name !== sound.name) {
              change("rename", (one) => {
                one.name = name;
              });
            }
          }}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
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
        <RowWaveform soundKey={key} />
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

function RowWaveform({ soundKey }: { soundKey: string }) {
  const workbench = useWorkbench();
  const { dataVersion } = useSnapshot();
  const theme = useUi((state) => state.theme);
  const canvas = useCanvas(() => draw());
  const draw = () => {
    const context = canvas.context();
    const wave = workbench.waveform(soundKey);
    const { width, height } = canvas.size.current;
    if (!context) return;
    context.clearRect(0, 0, width, height);
    context.fillStyle = themeColour("mist");
    if (!wave) {
      context.font = "14px 'Atkinson Hyperlegible Next Variable', sans-serif";
      context.fillText("Fetching …", 4, height / 2);
      return;
    }
    const columns = wave.length / 2;
    for (let x = 0; x < width; x++) {
      const column = Math.floor((x / width) * columns);
      const top = (1 - wave[column * 2 + 1]) * 0.5 * height;
      const bottom = (1 - wave[column * 2]) * 0.5 * height;
      context.fillRect(x, top, 1, Math.max(1, bottom - top));
    }
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what the drawing reads
  useEffect(draw, [soundKey, dataVersion, theme]);
  return <canvas ref={canvas.ref} className="h-16 w-full rounded bg-sunk" role="img" aria-label="Waveform" />;
}
