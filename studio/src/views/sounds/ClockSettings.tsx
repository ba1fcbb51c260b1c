import { type NumberLimits, numberLimits } from "@bumbrel/core/setting/descriptor";
import { fraction } from "@bumbrel/core/sound/beats";
import {
  beatAt,
  CLOCK_CURVE_SETTINGS,
  clockBeats,
  SWING_LIMITS,
  tappedTempo,
  withTempo,
} from "@bumbrel/core/sound/clock";
import { type ClockSound, SOUND_KINDS } from "@bumbrel/core/sound/kinds";
import { useRef } from "react";
import { useEditing, useNumbers, usePlayer } from "../../session/context";
import { editSound } from "../../session/edits/sounds";
import { Button } from "../../ui/Button";
import { CurveEditor } from "../../ui/fields/CurveEditor";
import { NumberField } from "../../ui/fields/NumberField";
import { LiveText } from "../../ui/live/LiveText";

const SETTINGS = SOUND_KINDS.clock.settings;

/** Tempo, bars and the drawn curve; a change of tempo while it runs takes hold without a jump. */
export function ClockSettings({ sound }: { sound: ClockSound }) {
  const editing = useEditing();
  const numbers = useNumbers();
  const player = usePlayer();
  const taps = useRef<number[]>([]);
  const set = (change: Partial<ClockSound>, gesture?: string) =>
    editSound(editing, sound, "change", (one) => Object.assign(one, change), gesture);
  const now = () => numbers.positionOf(sound, player.transport.positionS());
  const setTempo = (bpm: number) => {
    const { anchor } = withTempo(sound, bpm, now());
    set({ bpm, anchor });
  };
  const tap = ({ timeStamp }: { timeStamp: number }) => {
    // When it was tapped, not when a slow frame let it through.
    taps.current.push(timeStamp / 1000);
    const tapped = tappedTempo(taps.current);
    if (!tapped) return;
    const bpm = Math.round(tapped.bpm * 10) / 10;
    const timeS = now() + tapped.beatS - performance.now() / 1000;
    // Tapped while it runs, the beats fall where they were tapped.
    const beat = Math.round(beatAt(sound, timeS));
    set({ bpm, anchor: { timeS, beat } }, `tap ${sound.id}`);
  };
  const number = (
    label: string,
    value: number,
    limits: NumberLimits,
    chars: number,
    onChange: (value: number) => void,
    unit?: string,
  ) => <NumberField {...{ label, value, chars, onChange, unit }} {...numberLimits(limits)} />;
  return (
    <div className="grid gap-2 text-sm text-mist">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        {number("Tempo", sound.bpm, SETTINGS.bpm, 5, setTempo, "beats a minute")}
        <Button className="text-sm" onPointerDown={tap} onClick={(event) => event.detail === 0 && tap(event)}>
          Tap the beat
        </Button>
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        {number("Beats in a bar", sound.beatsPerBar, SETTINGS.beatsPerBar, 2, (beats) =>
          set({ beatsPerBar: Math.round(beats) }),
        )}
        beats to a bar,
        {number("Ticks in a beat", sound.subdivision, SETTINGS.subdivision, 2, (ticks) =>
          set({ subdivision: Math.round(ticks) }),
        )}
        ticks to a beat, swing
        {number(
          "Swing",
          sound.swing * 100,
          { min: SWING_LIMITS.even * 100, max: SWING_LIMITS.most * 100, step: 1 },
          3,
          (share) => set({ swing: share / 100 }),
          "%",
        )}
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        {number(
          "Length",
          sound.seconds,
          SETTINGS.seconds,
          6,
          (seconds) => set({ seconds }),
          "s long, click at",
        )}
        {number("Level", sound.levelDb, SETTINGS.levelDb, 5, (levelDb) => set({ levelDb }), "dB")}
      </div>
      <p>
        Now at bar{" "}
        <LiveText
          className="text-paper"
          text={() => {
            const beat = clockBeats(sound).beatAt(now());
            const inBar = ((Math.floor(beat) % sound.beatsPerBar) + sound.beatsPerBar) % sound.beatsPerBar;
            return `${Math.floor(beat / sound.beatsPerBar) + 1}, beat ${inBar + 1}`;
          }}
        />
      </p>
      <div className="flex items-center gap-2">
        Drawn curve over
        {number("Beats of the curve", sound.curve.beats, CLOCK_CURVE_SETTINGS.beats, 6, (beats) =>
          set({ curve: { ...sound.curve, beats } }),
        )}
        beats
      </div>
      <CurveEditor
        label={`Curve of ${sound.name}`}
        points={sound.curve.points}
        onChange={(points, gesture) => set({ curve: { ...sound.curve, points } }, `${gesture} ${sound.id}`)}
        onDone={() => editing.endGesture()}
        phase={() => {
          return fraction(beatAt(sound, now()) / sound.curve.beats);
        }}
      />
    </div>
  );
}
