/** The thread that programs run in on the server and the command line. */
import { parentPort } from "node:worker_threads";
import { ScriptHost } from "@bumbrel/core/analyse/scripts/scriptHost";
import type { ToScripts } from "@bumbrel/core/analyse/scripts/scriptMessages";

const port = parentPort!;
const host = new ScriptHost(
  (message, transfer) => port.postMessage(message, transfer as ArrayBuffer[]),
  () => performance.now(),
  () => new Promise((resolve) => setImmediate(resolve)),
);
port.on("message", (message: ToScripts) => host.take(message));
