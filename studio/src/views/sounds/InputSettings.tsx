import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { waveformPairs } from "@bumbrel/core/dsp/level/overview";
import { INPUT_BUFFERS, type InputSound } from "@bumbrel/core/sound/kinds";
import type { LiveInput } from "@bumbrel/player/live/liveInput";
import { MADE_UP_INPUT } from "@bumbrel/player/live/madeUpInput";
import type { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { Circle, Mic, MicOff, Square } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import { SoundWriter } from "../../library/soundWriter";
import { useEditing, useLibrary, usePlayer, useResult } from "../../session/context";
import { addStored, editSound } from "../../session/edits/sounds";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/fields/Choice";
import { Toggle } from "../../ui/fields/Toggle";
import { formatTime } from "../../ui/format";
import { drawWaveform } from "../../ui/live/drawWaveform";
import { useFrame } from "../../ui/live/frames";
import { LiveText } from "../../ui/live/LiveText";
import { useCanvas } from "../../ui/live/useCanvas";
import { themeColour } from "../../ui/strandLook";

/** Seconds of an input that its row shows. */
const SHOWN_S = 4;

const inputOf = (player: ScenePlayer, sound: InputSound): LiveInput | undefined =>
  player.live?.inputs.get(sound.id);

/** Level of the input now, or the reason why there is none. */
export function InputFace({ sound, onOpen }: { sound: InputSound; onOpen(): void }) {
  const player = usePlayer();
  const canvas = useCanvas();
  const state = useResult(() => inputOf(player, sound)?.state) ?? { kind: "off" as const };
  useFrame(() => {
    const context = canvas.context();
    const input = inputOf(player, sound);
    const { width, height } = canvas.size.current;
    if (!context || !input) return;
    context.clearRect(0, 0, width, height);
    if (input.state.kind !== "running") return;
    context.fillStyle = themeColour("brass");
    // Whole hops since it was opened, so that the drawing does not shimmer as it moves.
    const part = input.received % HOP_SAMPLES;
    const end = input.history.length - part;
    const shown = input.history.subarray(end - SHOWN_S * SAMPLE_RATE_HZ, end);
    const pairs = waveformPairs(shown);
    drawWaveform(context, pairs, 0, pairs.length / 2, width, height);
  }, canvas.ref);
  const toggle = () => {
    const input = inputOf(player, sound);
    if (input?.isOn) input.close();
    else void input?.open(sound);
  };
  const isOn = state.kind === "running" || state.kind === "asking";
  return (
    <div className="relative h-16">
      <canvas
        ref={canvas.ref}
        className="h-16 w-full rounded bg-sunk"
        role="img"
        aria-label={`What comes in at ${sound.name}`}
      />
      <div className="absolute inset-0 flex items-center gap-2 p-2">
        {state.kind === "failed" ? (
          <p role="alert" className="line-clamp-3 grow text-xs text-alarm" title={state.message}>
            {state.message}
          </p>
        ) : (
          <span className="grow text-sm text-mist">
            {state.kind === "off" && "Switched off."}
            {state.kind === "asking" && "Asking for the device …"}
          </span>
        )}
        {state.kind === "failed" && (
          <Button className="bg-ground text-sm" onClick={onOpen}>
            Choose
          </Button>
        )}
        <Button
          aria-label={isOn ? `Switch ${sound.name} off` : `Switch ${sound.name} on`}
          className="bg-ground text-sm"
          onClick={toggle}
        >
          {isOn ? <MicOff size={15} aria-hidden /> : <Mic size={15} aria-hidden />}
          {isOn ? "Off" : "On"}
        </Button>
      </div>
    </div>
  );
}

interface Device {
  id: string;
  name: string;
}

/** The inputs the browser tells of; their names are hidden until one was allowed. */
function useInputDevices(): { devices: Device[]; hidden: boolean; ask(): Promise<void>; refused: boolean } {
  const [devices, setDevices] = useState<Device[]>([]);
  const [hidden, setHidden] = useState(false);
  const [refused, setRefused] = useState(false);
  const look = useCallback(async () => {
    const all = (await navigator.mediaDevices?.enumerateDevices()) ?? [];
    const inputs = all.filter(({ kind }) => kind === "audioinput");
    setHidden(inputs.some(({ label }) => label === ""));
    setDevices(
      inputs
        .filter(({ label }) => label !== "")
        .map(({ deviceId, label }) => ({ id: deviceId, name: label })),
    );
  }, []);
  useEffect(() => {
    void look();
    navigator.mediaDevices?.addEventListener("devicechange", look);
    return () => navigator.mediaDevices?.removeEventListener("devicechange", look);
  }, [look]);
  const ask = async () => {
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: true });
      for (const track of stream.getTracks()) track.stop();
      setRefused(false);
    } catch {
      setRefused(true);
    }
    await look();
  };
  return { devices, hidden, ask, refused };
}

const ms = (seconds: number) => `${(seconds * 1000).toFixed(1)} ms`;

/** Which device, which of its channels, and how it is captured. */
export function InputSettings({ sound }: { sound: InputSound }) {
  const editing = useEditing();
  const player = usePlayer();
  const { devices, hidden, ask, refused } = useInputDevices();
  const input = inputOf(player, sound);
  const state = useResult(() => inputOf(player, sound)?.state);
  const running = state?.kind === "running" ? state : undefined;
  const set = (change: Partial<InputSound>) =>
    editSound(editing, sound, "change", (one) => Object.assign(one, change));
  const known = devices.some(({ id }) => id === sound.device?.id);
  const rates = running?.rates ?? [];
  const channels = Math.max(running?.channelCount ?? 1, (sound.channel ?? 0) + 1);
  return (
    <div className="grid gap-2 text-sm text-mist">
      <div className="flex flex-wrap items-center gap-2">
        <Choice
          label="Device"
          className="w-56"
          value={sound.device?.id ?? ""}
          choices={[
            ["", MADE_UP_INPUT],
            ...devices.map(({ id, name }) => [id, name] as const),
            ...(sound.device && !known
              ? [[sound.device.id, `${sound.device.name} (not connected)`] as const]
              : []),
          ]}
          onChange={(id) => set({ device: devices.find((one) => one.id === id) ?? null, channel: null })}
        />
        {hidden && (
          <Button className="text-sm" onClick={() => void ask()}>
            Show the names of microphones
          </Button>
        )}
      </div>
      {refused && (
        <p role="alert" className="text-alarm">
          The browser was not allowed to use a microphone. Allow it in the address bar's site settings; the
          made-up microphone works all the same.
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2">
        <Choice
          label="Channel"
          value={String(sound.channel ?? "")}
          choices={[
            ["", "all channels"],
            ...Array.from({ length: channels }, (_, i) => [String(i), `channel ${i + 1}`] as const),
          ]}
          onChange={(channel) => set({ channel: channel === "" ? null : Number(channel) })}
        />
        <Choice
          label="Sample rate"
          title={running ? "The rates this device offers" : "Switch it on to see the rates it offers"}
          value={String(sound.rateHz ?? "")}
          choices={[
            ["", "the device's own rate"],
            ...[...new Set([...rates, ...(sound.rateHz === null ? [] : [sound.rateHz])])].map(
              (rate) => [String(rate), `${rate / 1000} kHz`] as const,
            ),
          ]}
          onChange={(rate) => set({ rateHz: rate === "" ? null : Number(rate) })}
        />
        <Choice
          label="Buffer"
          title="Samples gathered before they are handed on: fewer is sooner, more is safer"
          value={String(sound.bufferSamples)}
          choices={INPUT_BUFFERS.map(
            (size) => [String(size), `buffer of ${size} (${ms(size / SAMPLE_RATE_HZ)})`] as const,
          )}
          onChange={(size) => set({ bufferSamples: Number(size) as InputSound["bufferSamples"] })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <Toggle
          label="Echo cancelling"
          on={sound.echoCancelling}
          onChange={(on) => set({ echoCancelling: on })}
        >
          echo cancelling
        </Toggle>
        <Toggle
          label="Noise suppression"
          on={sound.noiseSuppression}
          onChange={(on) => set({ noiseSuppression: on })}
        >
          noise suppression
        </Toggle>
        <span>Both change levels; leave them off for music.</span>
      </div>
      {running && (
        <p>
          {running.deviceName}, {running.rateHz / 1000} kHz. Late by{" "}
          <LiveText
            className="text-paper"
            text={() => {
              const { deviceS, bufferS, passingS } = input!.latency;
              return ms(deviceS + bufferS + passingS);
            }}
          />
          : device{" "}
          <LiveText text={() => (input!.latency.deviceS > 0 ? ms(input!.latency.deviceS) : "does not say")} />
          , buffer <LiveText text={() => ms(input!.latency.bufferS)} />, passing on{" "}
          <LiveText text={() => ms(input!.latency.passingS)} /> (measured).
        </p>
      )}
      <Recorder sound={sound} />
    </div>
  );
}

/** Records an input into a sound of its own. */
function Recorder({ sound }: { sound: InputSound }) {
  const player = usePlayer();
  const library = useLibrary();
  const editing = useEditing();
  const [state, setState] = useState<"idle" | "recording" | "storing">("idle");
  const [failure, setFailure] = useState<string>();
  const take = useRef<{ stop(): void; writer: SoundWriter | undefined; seconds: number }>(undefined);
  const running = useResult(() => inputOf(player, sound)?.state.kind === "running");

  const start = () => {
    const one: NonNullable<typeof take.current> = { stop: () => {}, writer: undefined, seconds: 0 };
    one.stop =
      player.live?.tap(sound.id, (channels) => {
        one.writer ??= new SoundWriter(channels.length, SAMPLE_RATE_HZ);
        one.writer.push(channels);
        one.seconds += channels[0].length / SAMPLE_RATE_HZ;
      }) ?? (() => {});
    take.current = one;
    setFailure(undefined);
    setState("recording");
  };
  const stop = useCallback(async () => {
    const { current } = take;
    take.current = undefined;
    current?.stop();
    if (!current?.writer) return setState("idle");
    setState("storing");
    try {
      const { facts, wav } = current.writer.end();
      const name = `${sound.name} recorded`;
      addStored(editing, name, "file", await library.store(name, facts, wav));
    } catch (error) {
      setFailure((error as Error).message);
    }
    setState("idle");
  }, [editing, library, sound.name]);
  // An input that goes away ends its recording; what was recorded stays.
  useEffect(() => {
    if (state === "recording" && !running) void stop();
  }, [state, running, stop]);
  return (
    <div className="flex items-center gap-2">
      {state === "recording" ? (
        <Button className="text-sm" onClick={() => void stop()}>
          <Square size={13} aria-hidden fill="currentColor" /> Stop recording
        </Button>
      ) : (
        <Button className="text-sm" disabled={!running || state === "storing"} onClick={start}>
          <Circle size={13} aria-hidden className="text-alarm" fill="currentColor" /> Record
        </Button>
      )}
      {state === "recording" && <LiveText text={() => formatTime(take.current?.seconds ?? 0)} />}
      {state === "storing" && <span role="status">Storing …</span>}
      {state === "idle" && !running && <span>Switch the input on to record it.</span>}
      {failure && (
        <span role="alert" className="text-alarm">
          {failure}
        </span>
      )}
    </div>
  );
}
