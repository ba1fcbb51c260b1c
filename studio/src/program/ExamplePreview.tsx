import type { ProgramExample } from "@bumbrel/core/program/examples";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { Stage } from "@bumbrel/player/stage/stage";
import { useEffect, useRef, useState } from "react";
import { exampleScene, exampleTracks, exampleWaves, PREVIEW_S } from "./exampleScene";

const [WIDTH, HEIGHT] = [232, 150];

/** A worked program at work, small, on made-up numbers that go round. */
export function ExamplePreview({ example }: { example: ProgramExample }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [note, setNote] = useState("Getting ready …");
  useEffect(() => {
    if (!canvas.current) return;
    let frame = 0;
    let isGone = false;
    setNote("Getting ready …");
    let stage: Stage | undefined;
    try {
      stage = new Stage(canvas.current);
    } catch {
      setNote("This browser offers no WebGL.");
      return;
    }
    const made = stage;
    const state = new SceneState(exampleScene(example));
    made.resize(WIDTH, HEIGHT, Math.min(2, window.devicePixelRatio));
    const isStill = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
    void exampleTracks(example).then((tracks) => {
      if (isGone) return;
      state.setTracks(tracks);
      state.setWaves(exampleWaves());
      made.attach(state);
      const began = performance.now();
      const draw = (now: number) => {
        frame = requestAnimationFrame(draw);
        const timeS = isStill ? PREVIEW_S / 2 : (((now - began) / 1000) % PREVIEW_S) + 1;
        state.advanceTo(timeS);
        made.update();
        made.render();
        if (made.isLoaded) setNote("");
      };
      frame = requestAnimationFrame(draw);
    });
    return () => {
      isGone = true;
      cancelAnimationFrame(frame);
      made.dispose();
    };
  }, [example]);
  return (
    <div className="relative overflow-hidden rounded bg-sunk" style={{ width: WIDTH, height: HEIGHT }}>
      <canvas
        key={example.label}
        ref={canvas}
        role="img"
        aria-label={`${example.label} at work`}
        style={{ width: WIDTH, height: HEIGHT }}
      />
      <p role="status" className="absolute inset-x-0 bottom-1 text-center text-xs text-mist">
        {note}
      </p>
    </div>
  );
}
