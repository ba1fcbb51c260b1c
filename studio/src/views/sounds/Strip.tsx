import { FADER_OFF_DB, FADER_TOP_DB } from "@bumbrel/core/dsp/level/decibel";
import { useAudition, useEditing, useResult } from "../../session/context";
import { NumberField } from "../../ui/fields/NumberField";
import { Slider } from "../../ui/fields/Slider";
import { Toggle } from "../../ui/fields/Toggle";

/** Fields that sounds and buses have in common. */
export interface StripState {
  id: string;
  name: string;
  faderDb: number;
  pan: number;
  muted: boolean;
}

interface Props {
  strip: StripState;
  /** Changes it as an undoable step. */
  change(label: string, apply: (strip: StripState) => void, gesture?: string): void;
}

/** Mute, which belongs to the scene, and solo, which is for listening while working. */
export function MuteSolo({ strip: { id, name, muted }, change }: Props) {
  const audition = useAudition();
  const isSolo = useResult(({ audition: { solo } }) => solo.has(id));
  return (
    <>
      <Toggle
        label={`Mute ${name}`}
        on={muted}
        onChange={(next) =>
          change(next ? "mute" : "unmute", (one) => {
            one.muted = next;
          })
        }
      >
        mute
      </Toggle>
      <Toggle
        label={`Solo ${name}`}
        title="Hear only this, while working; nothing of it is saved"
        on={isSolo}
        onChange={(on) => audition.setSolo(id, on)}
      >
        solo
      </Toggle>
    </>
  );
}

/** "off", "−∞" and the like mean the foot of the fader. */
const readDb = (text: string) => (/^(off|[-−]?\s*(∞|inf))/i.test(text.trim()) ? FADER_OFF_DB : undefined);

/** A fader and a pan, each with its number; a double click sets it back. */
export function Strip({ strip, change }: Props) {
  const { id, name, faderDb, pan } = strip;
  const editing = useEditing();
  const done = () => editing.endGesture();
  const setFader = (db: number) =>
    change(
      "move the fader of",
      (one) => {
        one.faderDb = db;
      },
      `fader ${id}`,
    );
  const setPan = (to: number) =>
    change(
      "pan",
      (one) => {
        one.pan = to;
      },
      `pan ${id}`,
    );
  return (
    <div className="grid min-w-0 grid-cols-[minmax(0,1fr)_auto_56px_auto] items-center gap-x-1.5">
      <Slider
        label={`Fader of ${name}`}
        title="How loud it is; double click for 0 dB"
        text={faderDb <= FADER_OFF_DB ? "off" : `${faderDb} dB`}
        value={faderDb}
        min={FADER_OFF_DB}
        max={FADER_TOP_DB}
        step={0.1}
        onChange={(to) => setFader(twoPlaces(to))}
        onDone={done}
        onReset={() => {
          setFader(0);
          done();
        }}
      />
      <NumberField
        label={`Fader of ${name}`}
        unit="dB"
        value={faderDb}
        min={FADER_OFF_DB}
        max={FADER_TOP_DB}
        step={0.1}
        chars={5}
        shown={faderDb <= FADER_OFF_DB ? "off" : undefined}
        read={readDb}
        onChange={setFader}
        onDone={done}
      />
      <Slider
        label={`Pan of ${name}`}
        title="Left to right; double click for the middle"
        text={panText(pan)}
        value={pan}
        min={-1}
        max={1}
        step={0.02}
        onChange={(to) => setPan(twoPlaces(to))}
        onDone={done}
        onReset={() => {
          setPan(0);
          done();
        }}
      />
      <span className="figures w-[4ch] text-right text-xs text-mist">{panText(pan)}</span>
    </div>
  );
}

const twoPlaces = (value: number) => Math.round(value * 100) / 100;

/** L 40, mid, R 100: the share of the way to one side. */
export function panText(pan: number): string {
  const share = Math.round(Math.abs(pan) * 100);
  return share === 0 ? "mid" : `${pan < 0 ? "L" : "R"}${share}`;
}
