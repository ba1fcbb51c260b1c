import { mkdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { describeSound, readProjectSound } from "@bumbrel/core/format/sound";
import { regattaFiles } from "@bumbrel/demo/files";
import { REGATTA_SOUNDS, regattaScene } from "@bumbrel/demo/regattaScene";
import { tuningShedScene } from "@bumbrel/demo/tuningShed";
import type { ProjectStore } from "./store/projects";
import type { SoundStore } from "./store/sounds";

export const REGATTA_NIGHT = "regatta-night";
export const TUNING_SHED = "tuning-shed";

/**
 * Makes the worked examples that are not there yet: their sounds are synthesised, stored, and written as files
 * beside the exact times of their drum hits. The first start also gets a project of each, with its picture.
 *
 * @param filesDir  where the files go, a folder for each example
 * @param picturesDir  where the pictures of the examples are
 */
export async function ensureExamples(
  projects: ProjectStore,
  sounds: SoundStore,
  filesDir: string,
  picturesDir: string,
): Promise<void> {
  if (!(await projects.example(TUNING_SHED))) await projects.addExample(TUNING_SHED, tuningShedScene());
  if (await projects.example(REGATTA_NIGHT)) return;
  const files = regattaFiles();
  const folder = join(filesDir, REGATTA_NIGHT);
  await mkdir(folder, { recursive: true });
  for (const [name, bytes] of files) await writeFile(join(folder, name), bytes);

  const storedIds: Record<string, string> = {};
  for (const { id, name } of REGATTA_SOUNDS) {
    const bytes = files.get(`${id}.wav`)!;
    storedIds[id] = await sounds.announce(name, describeSound(readProjectSound(bytes)));
    await sounds.receive(storedIds[id], inPieces(bytes));
  }
  await projects.addExample(REGATTA_NIGHT, regattaScene(storedIds));
  if (!(await projects.isEmpty())) return;
  // Reading them back makes the reader of scenes ready as well, which takes a second that nobody waits for here.
  for (const id of [TUNING_SHED, REGATTA_NIGHT]) {
    const scene = await projects.example(id);
    if (!scene) continue;
    const made = await projects.create(scene);
    const picture = await readFile(join(picturesDir, `${id}.jpg`)).catch(() => undefined);
    if (picture) await projects.setThumbnail(made.id, picture);
  }
}

async function* inPieces(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}
