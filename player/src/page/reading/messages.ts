import { trackValueAt } from "@bumbrel/core/strand/track";
import type { ScenePlayer } from "../../scenePlayer";

/** Requests that a page around this one may make. */
interface Asked {
  bumbrel: "play" | "pause" | "seek" | "read";
  /** For `seek`: seconds on the tape. */
  timeS?: number;
  /** Comes back with the answer. */
  id?: unknown;
}

/**
 * Lets the page that this one is embedded in start, stop and move the scene, and read its numbers, by messages. Each is
 * answered with `{ bumbrel: "numbers", id, state, timeS, durationS, strands }`; changes of the state are told as well.
 */
export function answerMessages(player: ScenePlayer): void {
  const { transport, scene } = player;
  const names = new Map(scene.strands.map(({ id, name }) => [id, name]));
  const tell = (target: Window, origin: string, id?: unknown) => {
    const timeS = transport.positionS();
    const strands: Record<string, number | number[]> = {};
    for (const [strandId, track] of player.givenTracks) {
      const numbers = Array.from({ length: track.width }, (_none, band) => trackValueAt(track, timeS, band));
      strands[names.get(strandId) ?? strandId] = track.width === 1 ? numbers[0] : numbers;
    }
    const { state, durationS } = transport;
    target.postMessage({ bumbrel: "numbers", id, state, timeS, durationS, strands }, origin);
  };
  addEventListener("message", ({ data, source, origin }: MessageEvent<Asked | undefined>) => {
    if (!data || typeof data !== "object" || !source || source === window) return;
    const { bumbrel, timeS, id } = data;
    if (bumbrel === "play") transport.play();
    else if (bumbrel === "pause") transport.pause();
    else if (bumbrel === "seek" && Number.isFinite(timeS)) transport.seek(timeS!);
    else if (bumbrel !== "read") return;
    tell(source as Window, origin === "null" ? "*" : origin, id);
  });
  // Whoever embeds it may be anybody: what it tells is no secret.
  if (parent !== window) transport.onChange(() => tell(parent, "*"));
}
