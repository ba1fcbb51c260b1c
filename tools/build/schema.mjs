/** Writes docs/scene.schema.json, docs/take.schema.json, docs/reference.md, docs/edits.md and the docs of programs from the tables the code uses. */
import { mkdir, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { build } from "esbuild";
import { ROOT } from "../setup.mjs";

/** Loads a module of core as it stands. */
async function load(path) {
  const bundle = join(ROOT, "core/dist", `${path.replaceAll("/", "-")}.mjs`);
  await build({
    entryPoints: [join(ROOT, "core/src", `${path}.ts`)],
    bundle: true,
    platform: "node",
    format: "esm",
    outfile: bundle,
  });
  const module = await import(bundle);
  await rm(bundle);
  return module;
}

await mkdir(join(ROOT, "docs"), { recursive: true });
const { SceneSchema } = await load("kinds/sceneSchema");
await writeFile(join(ROOT, "docs/scene.schema.json"), `${JSON.stringify(SceneSchema, null, 2)}\n`);
const { TakeFileSchema } = await load("document/take/takeFile");
await writeFile(join(ROOT, "docs/take.schema.json"), `${JSON.stringify(TakeFileSchema, null, 2)}\n`);
const { reference } = await load("check/reference");
await writeFile(join(ROOT, "docs/reference.md"), reference());
const { editsReference } = await load("edit/reference");
await writeFile(join(ROOT, "docs/edits.md"), editsReference());
const { programsReference } = await load("check/programsReference");
await mkdir(join(ROOT, "docs/programs"), { recursive: true });
for (const [path, text] of Object.entries(programsReference())) {
  await writeFile(join(ROOT, "docs", path), text);
}
