/** Writes core/src/dsp/spectrum/fftModule.ts from core/wasm/fft.ts. */
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { ROOT } from "../setup.mjs";

/** Compiles the transform and gives the TypeScript file that holds it. */
export async function fftModule() {
  const { default: asc } = await import("assemblyscript/asc");
  let bytes;
  const { error, stderr } = await asc.main(
    [
      join(ROOT, "core/wasm/fft.ts"),
      "--outFile",
      "out.wasm",
      "--runtime",
      "stub",
      "--noAssert",
      "--importMemory",
      "--enable",
      "simd",
      "-O3",
    ],
    {
      writeFile: (_name, contents) => {
        bytes = contents;
      },
    },
  );
  if (error) throw new Error(`${error.message}\n${stderr}`);
  return `/** The compiled transform of core/wasm/fft.ts as hexadecimal, which packs better than Base64; written by \`npm run wasm\`. */
export const FFT_MODULE =
  "${Buffer.from(bytes).toString("hex")}";
`;
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href) {
  await writeFile(join(ROOT, "core/src/dsp/spectrum/fftModule.ts"), await fftModule());
}
