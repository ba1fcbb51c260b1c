/** Writes docs/scene.schema.json from the schema the code uses. */
import { mkdir, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { build } from "esbuild";
import { ROOT } from "./setup.mjs";

const bundle = join(ROOT, "core/dist/schema.mjs");
await mkdir(join(ROOT, "docs"), { recursive: true });
await build({
  entryPoints: [join(ROOT, "core/src/kinds/sceneSchema.ts")],
  bundle: true,
  platform: "node",
  format: "esm",
  outfile: bundle,
});
const { SceneSchema } = await import(bundle);
await writeFile(join(ROOT, "docs/scene.schema.json"), `${JSON.stringify(SceneSchema, null, 2)}\n`);
await rm(bundle);
