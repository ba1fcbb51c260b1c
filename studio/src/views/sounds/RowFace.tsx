import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { samplesKey } from "@bumbrel/core/sound/key";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { type PointerEvent, useEffect, useRef } from "react";
import { useLibrary, useNumbers, useSamples } from "../../session/context";
import { useUi } from "../../session/viewState";
import { drawSamples, drawWaveform } from "../../ui/live/drawWaveform";
import { useFrame } from "../../ui/live/frames";
import { useCanvas } from "../../ui/live/useCanvas";
import { themeColour } from "../../ui/strandLook";
import { InputFace } from "./InputSettings";
import { KeyPad } from "./KeyPad";

/** Cycles of a tone that show its shape; all of a tone at once would be a solid block. */
const SHOWN_CYCLES = 8;

/** Picture of a sound in its row: its waveform, its live input, or keys to play. */
export function RowFace({ sound, onOpen }: { sound: Sound; onOpen(): void }) {
  if (sound.kind === "input") return <InputFace sound={sound} onOpen={onOpen} />;
  if (sound.kind === "keys") return <KeyPad sound={sound} />;
  return <RowWaveform sound={sound} />;
}

function RowWaveform({ sound }: { sound: Sound }) {
  const numbers = useNumbers();
  const library = useLibrary();
  const theme = useUi((state) => state.theme);
  const canvas = useCanvas(() => draw());
  const playhead = useRef<HTMLSpanElement>(null);
  const key = samplesKey(sound)!;
  const { loaded, loadingShare, waveform, hopsReady } = useSamples(key);
  const cycleS = sound.kind === "tone" ? SHOWN_CYCLES / sound.hz : undefined;
  const draw = () => {
    const context = canvas.context();
    const { width, height } = canvas.size.current;
    if (!context) return;
    context.clearRect(0, 0, width, height);
    context.fillStyle = context.strokeStyle = themeColour("mist");
    if (cycleS !== undefined && loaded) {
      drawSamples(context, loaded.mono, 0, cycleS * SAMPLE_RATE_HZ, width, height);
    } else if (waveform) {
      drawWaveform(context, waveform.pairs, 0, waveform.pairs.length / 2, width, height);
    }
    if (loaded) return;
    const share = loadingShare ?? 0;
    context.font = "14px 'Atkinson Hyperlegible Next Variable', sans-serif";
    context.fillStyle = themeColour("paper");
    const words = sound.kind === "file" ? `Fetching … ${Math.round(share * 100)} %` : "Making …";
    context.fillText(words, 12, height / 2 + 5);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what the drawing reads
  useEffect(draw, [key, loaded, loadingShare, hopsReady, theme]);
  useFrame((timeS) => {
    if (!playhead.current || cycleS !== undefined) return;
    const lengthS = library.lengthOf(sound);
    const share = lengthS > 0 ? numbers.positionOf(sound, timeS) / lengthS : 0;
    playhead.current.style.opacity = share <= 1 ? "1" : "0";
    playhead.current.style.transform = `translateX(${Math.min(1, share) * canvas.size.current.width}px)`;
  }, canvas.ref);
  const seek = (event: PointerEvent<HTMLElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    const timeS = ((event.clientX - left) / width) * library.lengthOf(sound);
    numbers.seekSound(sound, timeS);
  };
  return (
    <figure className="relative self-start">
      <canvas
        ref={canvas.ref}
        className={`h-16 w-full rounded bg-sunk ${cycleS === undefined ? "cursor-text" : ""}`}
        role="img"
        aria-label={cycleS === undefined ? `Waveform of ${sound.name}` : `The first ${SHOWN_CYCLES} cycles`}
        onPointerDown={(event) => cycleS === undefined && seek(event)}
      />
      {cycleS === undefined ? (
        <span ref={playhead} className="pointer-events-none absolute top-0 left-0 h-16 w-px bg-brass" />
      ) : (
        <figcaption className="text-right text-xs text-mist">the first {SHOWN_CYCLES} cycles</figcaption>
      )}
    </figure>
  );
}

export const hopsOf = (seconds: number) => (seconds * SAMPLE_RATE_HZ) / HOP_SAMPLES;
