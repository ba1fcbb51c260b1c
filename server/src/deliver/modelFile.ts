import type { ModelSettings } from "@bumbrel/core/document/modelSettings";
import { BumbrelError } from "@bumbrel/core/errors";
import { inChromium } from "../chromium/inChromium";
import { webPage } from "./page";
import type { WayRoom } from "./wayRoom";

/**
 * A scene as a model with baked motion, made in the installed Chromium: the same page that is delivered reads it frame by
 * frame.
 *
 * @returns a GLB file
 * @throws BumbrelError with the reason why it cannot be made; the signal's reason when it is stopped
 */
export async function modelFile(
  { scene, stores: { sounds, assets }, parts, signal }: WayRoom,
  settings: ModelSettings,
): Promise<Uint8Array> {
  let model: Uint8Array | undefined;
  const failure = (what: string) =>
    new BumbrelError({
      code: "model-failed",
      what,
      where: "the model",
      remedy: "Look at the scene in the workbench: Deliver lists what is wrong with it",
    });
  await inChromium({
    answer: (path) =>
      path === ""
        ? webPage(scene, sounds, assets, parts, { work: { kind: "model", task: settings } })
        : undefined,
    take: async (path, sent) => {
      if (path === "model") model = await sent.bytes();
    },
    failure,
    signal,
  });
  if (!model) throw failure("The browser made none.");
  return model;
}
