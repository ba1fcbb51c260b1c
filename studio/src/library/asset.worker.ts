import { readModel } from "@bumbrel/core/format/model";
import fontUrl from "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2?url";
import wasmUrl from "@resvg/resvg-wasm/index_bg.wasm?url";
import { answerWith } from "./askWorker";
import { drawSvg } from "./drawSvg";

export type AssetRequest =
  | { kind: "model"; bytes: Uint8Array; name: string }
  | { kind: "svg"; text: string; name: string };

addEventListener("message", ({ data }: MessageEvent<AssetRequest>) => {
  void answerWith(data.name, read(data));
});

async function read(request: AssetRequest): Promise<unknown> {
  if (request.kind === "model") return readModel(request.bytes, request.name);
  const bytesOf = async (url: string) => new Uint8Array(await (await fetch(url)).arrayBuffer());
  const [wasm, font] = await Promise.all([bytesOf(wasmUrl), bytesOf(fontUrl)]);
  return drawSvg(request.text, request.name, wasm, font);
}
