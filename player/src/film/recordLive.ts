import {
  FILM_FORMATS,
  type FilmSettings,
  pictureBitsASecond,
  rateOf,
  SOUND_BITS_A_SECOND,
  sizeOf,
} from "@bumbrel/core/document/film/film";
import { containerFormat, type FilmContainer, type WriteAt } from "@bumbrel/core/format/film/filmFile";
import { registerAacEncoder } from "@mediabunny/aac-encoder";
import {
  CanvasSource,
  MediaStreamAudioTrackSource,
  Output,
  StreamTarget,
  type StreamTargetChunk,
} from "mediabunny";
import type { ScenePlayer } from "../scenePlayer";
import { NoEncoder } from "../sound/encodeSound";
import type { FetchAsset } from "../stage/assets";
import { Stage } from "../stage/stage";

/** A recording that goes on until it is stopped. */
export interface Recording {
  /** Shows what is recorded. */
  canvas: HTMLCanvasElement;
  /** Seconds and frames so far. */
  now(): { seconds: number; frames: number };
  /** Ends it; resolves once everything has been written. */
  stop(): Promise<void>;
}

/**
 * Records what a player shows and lets hear, as it happens. It follows the clock: a frame that is drawn late is recorded
 * late. For scenes with inputs, of which nothing is known by number.
 *
 * @param writeAt  called one call after the other
 * @throws NoEncoder for a ZIP file of frames, which is made by number only
 */
export async function recordLive(
  player: ScenePlayer,
  settings: FilmSettings,
  files: { fetchAsset: FetchAsset; fetchFont(): Promise<ArrayBuffer> },
  writeAt: WriteAt,
): Promise<Recording> {
  const { picture, sound, extension } = FILM_FORMATS[settings.format];
  if ("image" in picture || sound === "wav")
    throw new NoEncoder("What happens is recorded as a film, not as frames. Choose MP4 or WebM.");
  const canvas = document.createElement("canvas");
  const stage = new Stage(canvas, files.fetchAsset, files.fetchFont);
  const { width, height } = sizeOf(settings);
  const detach = player.attach(stage);
  stage.resize(width, height, 1 / stage.pixelShare);
  await player.whenLoaded();
  if (sound === "aac") registerAacEncoder();

  const { transport } = player;
  await transport.whenReady();
  const context = transport.ensureContext();
  const tap = context.createMediaStreamDestination();
  let untap = () => {};
  transport.onContext((_context, { output: mix }) => {
    mix.connect(tap);
    untap = () => mix.disconnect(tap);
  })();
  const output = new Output({
    format: containerFormat(extension as FilmContainer),
    target: new StreamTarget(
      new WritableStream<StreamTargetChunk>({ write: ({ position, data }) => writeAt(position, data) }),
    ),
  });
  const video = new CanvasSource(canvas, {
    codec: picture.codec,
    bitrate: pictureBitsASecond(settings),
    latencyMode: "realtime",
    keyFrameInterval: 2,
  });
  const audio = new MediaStreamAudioTrackSource(tap.stream.getAudioTracks()[0] as MediaStreamAudioTrack, {
    codec: sound,
    bitrate: SOUND_BITS_A_SECOND,
  });
  output.addVideoTrack(video);
  output.addAudioTrack(audio);
  await output.start();
  const beganMs = performance.now();
  const frameS = 1 / rateOf(settings);
  let nextS = 0;
  let frames = 0;
  let isStopped = false;
  let failure: unknown;
  const seconds = () => (performance.now() - beganMs) / 1000;
  audio.errorPromise.catch((error: unknown) => {
    failure ??= error;
  });
  const unwatch = player.onFrame(() => {
    const atS = seconds();
    if (isStopped || atS < nextS) return;
    nextS = Math.max(nextS + frameS, atS);
    frames++;
    video.add(atS, frameS).catch((error: unknown) => {
      failure ??= error;
    });
  });
  return {
    canvas,
    now: () => ({ seconds: seconds(), frames }),
    async stop() {
      if (isStopped) return;
      isStopped = true;
      unwatch();
      untap();
      detach();
      await output.finalize();
      stage.dispose();
      if (failure) throw failure;
    },
  };
}
