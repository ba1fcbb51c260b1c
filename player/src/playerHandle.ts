import { type TakeFile, takeToFile } from "@bumbrel/core/document/take/takeFile";
import type { PropertyValues } from "@bumbrel/core/evaluate/plan";
import type { ScenePlayer } from "./scenePlayer";
import type { DrawnParts } from "./stage/renderedObject";
import type { Stage } from "./stage/stage";

/** Functions that a page around a player may call; published as `window.bumbrel`. */
export interface PlayerHandle {
  play(): void;
  pause(): void;
  /** Moves to a time in seconds. */
  seek(timeS: number): void;
  positionS(): number;
  durationS(): number;
  state(): "paused" | "playing" | "held";
  /** True if everything the scene shows has been loaded. */
  isLoaded(): boolean;
  whenLoaded(): Promise<void>;
  /** Evaluated property values at the present position, by object id and property. */
  values(): PropertyValues;
  /** Drawn value of a property, read back from the graphics. */
  read(objectId: string, property: string): number | number[] | undefined;
  /** Every number of an object that is sent to the graphics card. */
  drawn(objectId: string): number[];
  /** The same of several objects at one instant, each by what its numbers are for. */
  drawnOf(objectIds: readonly string[]): DrawnParts[];
  /**
   * Draws a frame by its number and reads it back.
   *
   * @returns RGBA, 0 to 255, rows from top to bottom
   */
  captureFrame(
    frame: number,
    framesPerSecond: number,
    width: number,
    height: number,
  ): Promise<Uint8ClampedArray>;
  /** Milliseconds of script that a frame takes, smoothed. */
  frameCostMs(): number;
  /** Seconds of the run at hand; `undefined` while time is the tape's. */
  runS(): number | undefined;
  /** Events of the run so far. */
  take(): TakeFile;
  /** Cues that answers have taken, in order. */
  fired(): readonly { answerId: string; timeS: number; strength: number }[];
  /** Position of a sound that runs by itself, and whether it runs: as the scene has it, and as it is heard. */
  unit(unitId: string): { positionS: number; running: boolean; heardS: number; isHeard: boolean };
}

/** Makes a handle on a player and the stage it is seen on, if it is seen. */
export function playerHandle(player: ScenePlayer, stage?: Stage): PlayerHandle {
  const { transport } = player;
  return {
    play: () => transport.play(),
    pause: () => transport.pause(),
    seek: (timeS) => transport.seek(timeS),
    positionS: () => transport.positionS(),
    durationS: () => transport.durationS,
    state: () => transport.state,
    isLoaded: () => player.isLoaded,
    whenLoaded: () => player.whenLoaded(),
    values: () => player.currentValues(),
    read: (objectId, property) => {
      player.readNow();
      return stage?.read(objectId, property);
    },
    drawn: (objectId) => {
      player.readNow();
      return stage?.drawnNumbers(objectId) ?? [];
    },
    drawnOf: (objectIds) => {
      player.readNow();
      return objectIds.map((id) => stage?.entries.get(id)?.rendered.drawnParts() ?? {});
    },
    captureFrame: async (frame, framesPerSecond, width, height) => {
      if (!stage) throw new Error("There is no stage to capture.");
      return captureFrame(player, stage, frame / framesPerSecond, width, height);
    },
    frameCostMs: () => player.frameCostMs,
    runS: () => player.run?.positionS(),
    take: () => takeToFile(player.currentTake),
    fired: () => [...(player.state.simulation.answering?.history ?? [])],
    unit: (unitId) => {
      const timeS = player.readNow();
      const units = player.state.units;
      return {
        positionS: units?.positionS(unitId, timeS) ?? 0,
        running: units?.isRunning(unitId, timeS) ?? false,
        heardS: transport.unitPositionS(unitId),
        isHeard: transport.stateOf(unitId) === "playing",
      };
    },
  };
}

function captureFrame(player: ScenePlayer, stage: Stage, timeS: number, width: number, height: number) {
  return player.alone((show) => captureAlone(show, stage, timeS, width, height));
}

async function captureAlone(
  show: (timeS: number) => Promise<void>,
  stage: Stage,
  timeS: number,
  width: number,
  height: number,
) {
  const { canvas } = stage;
  const before = { width: canvas.clientWidth, height: canvas.clientHeight };
  stage.resize(width, height, 1);
  await show(timeS);
  stage.renderClean();
  const copy = document.createElement("canvas");
  copy.width = width;
  copy.height = height;
  const context = copy.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("This browser cannot read images back.");
  context.drawImage(canvas, 0, 0, width, height);
  stage.resize(before.width, before.height, Math.min(2, devicePixelRatio));
  return context.getImageData(0, 0, width, height).data;
}

declare global {
  interface Window {
    /** The player of this page, once it is ready. */
    bumbrel?: PlayerHandle;
  }
}
