import { COMFORT_SETTINGS, type Comfort } from "@bumbrel/player/visit/comfort";
import { HEADSET_MODES, type HeadsetMode } from "@bumbrel/player/visit/headsetVisit";
import { Glasses, Hand, Joystick } from "lucide-react";
import { usePlayer } from "../../session/context";
import { Choice } from "../../ui/fields/Choice";
import { DeclaredField } from "../../ui/fields/DeclaredField";
import { Toggle } from "../../ui/fields/Toggle";
import { LiveText } from "../../ui/live/LiveText";

/** How a scene is met in a headset. */
export interface HeadsetState {
  mode: HeadsetMode;
  device: "madeUp" | "real";
  input: "controllers" | "hands";
  showsBothEyes: boolean;
  comfort: Comfort;
}

/** Milliseconds of a frame at 90 Hz, and how many of them script may take. */
const FRAME_MS = 1000 / 90;
const SCRIPT_SHARE = 0.36;

/** Which headset, how the scene is seen in it, and what a frame costs. */
export function HeadsetPanel({
  headset,
  problem,
  onChange,
}: {
  headset: HeadsetState;
  problem: string | undefined;
  onChange(change: Partial<HeadsetState>): void;
}) {
  const player = usePlayer();
  return (
    <div className="grid gap-2 text-sm text-mist">
      <div className="flex flex-wrap items-center gap-1.5">
        <Choice
          label="Headset"
          value={headset.device}
          choices={[
            ["madeUp", "made-up headset"],
            ["real", "this device’s headset"],
          ]}
          onChange={(device) => onChange({ device })}
        />
        <Choice
          label="How it is seen"
          value={headset.mode}
          choices={(Object.keys(HEADSET_MODES) as HeadsetMode[]).map(
            (mode) => [mode, HEADSET_MODES[mode]] as const,
          )}
          onChange={(mode) => onChange({ mode })}
        />
      </div>
      {headset.device === "madeUp" && (
        <div className="flex flex-wrap items-center gap-1.5">
          <Toggle
            label="Both eyes"
            on={headset.showsBothEyes}
            onChange={(showsBothEyes) => onChange({ showsBothEyes })}
          >
            <Glasses size={14} aria-hidden /> both eyes
          </Toggle>
          <Toggle
            label="Controllers"
            on={headset.input === "controllers"}
            onChange={() => onChange({ input: "controllers" })}
          >
            <Joystick size={14} aria-hidden /> controllers
          </Toggle>
          <Toggle label="Hands" on={headset.input === "hands"} onChange={() => onChange({ input: "hands" })}>
            <Hand size={14} aria-hidden /> hands
          </Toggle>
        </div>
      )}
      <fieldset aria-label="Comfort" className="flex flex-wrap items-center gap-1.5">
        {(Object.keys(COMFORT_SETTINGS) as (keyof Comfort)[]).map((key) => (
          <DeclaredField
            key={key}
            setting={COMFORT_SETTINGS[key]}
            value={headset.comfort[key]}
            onChange={(value) => onChange({ comfort: { ...headset.comfort, [key]: value } })}
          />
        ))}
      </fieldset>
      {problem !== undefined && (
        <p role="alert" className="text-alarm">
          {problem}
        </p>
      )}
      <p>
        Script of a frame:{" "}
        <LiveText
          className="text-paper"
          text={() => {
            const ms = player.scriptCostMs;
            if (ms === undefined) return "measured while it runs";
            const fits = ms <= FRAME_MS * SCRIPT_SHARE ? "fits 90 Hz" : "too much for 90 Hz";
            return `${ms.toFixed(1)} ms, ${fits}`;
          }}
        />
      </p>
      <p>Bloom, feedback, grading and the other passes of the lens are left out: no headset has the time.</p>
      {headset.mode === "immersive-ar" && (
        <p>A ring shows where the floor is: the first pull of a trigger stands the scene there.</p>
      )}
      {headset.device === "madeUp" && (
        <p>
          W A S D walk, arrows turn the head. The pointer moves the right hand, with Shift the left, the wheel
          reaches. A click is the trigger, G holds, T teleports with the leading hand.
        </p>
      )}
    </div>
  );
}
