import { noteToHz } from "@bumbrel/core/dsp/note";
import { NOISE_KINDS, SWEEP_KINDS, TONE_KINDS } from "@bumbrel/core/dsp/tone";
import { numberLimits } from "@bumbrel/core/setting/descriptor";
import { SOUND_KINDS, type Sound } from "@bumbrel/core/sound/kinds";
import { Choice } from "../../ui/Choice";
import { noteName } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { useWorkbench } from "../project/context";
import { editSound } from "./edits";

type Tone = Extract<Sound, { kind: "tone" }>;
type Noise = Extract<Sound, { kind: "noise" }>;

/** What a tone or noise is made of; a frequency can be typed in Hz or as a note. */
export function MadeSettings({ sound }: { sound: Tone | Noise }) {
  const workbench = useWorkbench();
  const set = (change: Partial<Tone> | Partial<Noise>) =>
    editSound(workbench, sound, "change", (one) => Object.assign(one, change));
  return (
    <div className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1 py-0.5 text-sm text-mist">
      {sound.kind === "tone" ? (
        <ToneSettings sound={sound} set={set} />
      ) : (
        <>
          <Choice
            label="Noise"
            value={sound.colour}
            choices={NOISE_KINDS}
            onChange={(colour) => set({ colour })}
          />
          noise, seed
          <NumberField
            label="Seed"
            value={sound.seed}
            {...numberLimits(SOUND_KINDS.noise.settings.seed)}
            chars={4}
            onChange={(seed) => set({ seed: Math.round(seed) })}
          />
        </>
      )}
      for
      <NumberField
        label="Length"
        unit="s"
        value={sound.seconds}
        {...numberLimits(SOUND_KINDS[sound.kind].settings.seconds)}
        chars={5}
        onChange={(seconds) => set({ seconds })}
      />
      at
      <NumberField
        label="Level"
        unit="dB"
        value={sound.levelDb}
        {...numberLimits(SOUND_KINDS[sound.kind].settings.levelDb)}
        chars={5}
        onChange={(levelDb) => set({ levelDb })}
      />
    </div>
  );
}

function ToneSettings({ sound, set }: { sound: Tone; set(change: Partial<Tone>): void }) {
  const frequency = (label: string, value: number, onChange: (hz: number) => void) => (
    <NumberField
      label={label}
      unit={`Hz ${noteName(value)}`}
      value={value}
      {...numberLimits(SOUND_KINDS.tone.settings.hz)}
      chars={7}
      read={noteToHz}
      onChange={(hz) => onChange(Math.round(hz * 1000) / 1000)}
    />
  );
  return (
    <>
      <Choice
        label="Waveform"
        value={sound.waveform}
        choices={TONE_KINDS}
        onChange={(waveform) => set({ waveform })}
      />
      {frequency("Frequency", sound.hz, (hz) => set({ hz }))}
      {sound.toHz === null ? (
        <button
          type="button"
          className="rounded-full border border-rule px-2 hover:border-brass hover:text-brass"
          onClick={() => set({ toHz: Math.min(SOUND_KINDS.tone.settings.toHz.max, sound.hz * 4) })}
        >
          sweep
        </button>
      ) : (
        <>
          to {frequency("Sweep to", sound.toHz, (toHz) => set({ toHz }))}
          <Choice
            label="Sweep"
            value={sound.sweep}
            choices={SWEEP_KINDS}
            onChange={(sweep) => set({ sweep })}
          />
          <button
            type="button"
            className="rounded-full border border-rule px-2 hover:border-brass hover:text-brass"
            onClick={() => set({ toHz: null })}
          >
            stay
          </button>
        </>
      )}
    </>
  );
}
