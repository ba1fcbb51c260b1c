import { decodeSound } from "../../sound/decodeEncoded";
import { send } from "./send";

/** Task of a page that decodes: sounds, each of which it fetches by its number. */
export interface DecodeTask {
  names: string[];
}

/** Decodes sounds for a server on this machine, which has no decoder, and sends it their channels. */
async function main(): Promise<void> {
  const { names } = JSON.parse(document.getElementById("task")!.textContent) as DecodeTask;
  for (const [i, name] of names.entries()) {
    const stored = new Uint8Array(await (await fetch(`sound/${i}`)).arrayBuffer());
    const { channels } = await decodeSound(stored, name);
    for (const channel of channels) await send(`channel/${i}`, channel as Float32Array<ArrayBuffer>);
  }
  await send("done", "");
}

main().catch((error: Error) => send("failed", error.message));
