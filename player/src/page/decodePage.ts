import { decodeSound } from "../sound/decodeEncoded";

/** What a page that decodes is given: sounds, each of which it fetches by its number. */
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

async function send(path: string, body: BodyInit): Promise<void> {
  const response = await fetch(path, { method: "POST", body });
  if (!response.ok) throw new Error(`The server refused ${path}: ${response.status}.`);
}

main().catch((error: Error) => send("failed", error.message));
