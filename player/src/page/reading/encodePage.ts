import { soundEncoder } from "../../sound/encodeSound";
import { send } from "./send";

/** Task of the encoding page: sounds, whose channels it fetches by number. */
export interface EncodeTask {
  codec: "aac" | "opus";
  /** How many channels each has. */
  channels: number[];
}

/** Encoders take no more at once, samples. */
const BLOCK = 48_000;

/** Encodes sounds for a server on this machine, which has no encoder, and sends it the files. */
async function main(): Promise<void> {
  const task = JSON.parse(document.getElementById("task")!.textContent) as EncodeTask;
  for (const [i, count] of task.channels.entries()) {
    const channels = await Promise.all(
      Array.from({ length: count }, async (_none, c) => {
        const response = await fetch(`channel/${i}/${c}`);
        return new Float32Array(await response.arrayBuffer());
      }),
    );
    const encoder = await soundEncoder(task.codec, count);
    for (let at = 0; at < channels[0].length; at += BLOCK)
      await encoder.add(channels.map((channel) => channel.subarray(at, at + BLOCK)));
    await send(`sound/${i}`, (await encoder.finish()) as Uint8Array<ArrayBuffer>);
  }
  await send("done", "");
}

main().catch((error: Error) => send("failed", error.message));
