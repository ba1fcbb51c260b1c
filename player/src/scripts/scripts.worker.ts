import { ScriptHost } from "@bumbrel/core/analyse/scripts/scriptHost";
import type { FromScripts, ToScripts } from "@bumbrel/core/analyse/scripts/scriptMessages";

const scope = self as unknown as {
  postMessage(message: FromScripts, options: { transfer: ArrayBufferLike[] }): void;
  onmessage: ((event: MessageEvent<ToScripts>) => void) | null;
};
const host = new ScriptHost(
  (message, transfer) => scope.postMessage(message, { transfer }),
  () => performance.now(),
  () => new Promise((resolve) => setTimeout(resolve)),
);
scope.onmessage = ({ data }) => host.take(data);
