import { mkdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { EXAMPLE_LIST, type ExampleId } from "@bumbrel/api/exampleList";
import { describeSound, readProjectSound } from "@bumbrel/core/format/samples/sound";
import { EXAMPLES } from "@bumbrel/demo/examples";
import type { ProjectStore } from "./store/projects";
import type { SoundStore } from "./store/sounds";

/**
 * Makes the worked examples that are not there yet: their sounds are synthesised, stored, and written as files,
 * beside the exact times of the drum hits of *Regatta Night*.
 *
 * @param filesDir  where the files go, a folder for each example
 */
export async function makeExamples(
  projects: ProjectStore,
  sounds: SoundStore,
  filesDir: string,
): Promise<void> {
  for (const { id } of EXAMPLE_LIST)
    if (!(await projects.example(id))) await makeExample(id, projects, sounds, join(filesDir, id));
}

/**
 * Gives a workbench without projects one of each worked example, with its picture.
 *
 * @param picturesDir  where the pictures of the examples are
 */
export async function showExamples(projects: ProjectStore, picturesDir: string): Promise<void> {
  if (!(await projects.isEmpty())) return;
  // The newest stands first on the shelf. Reading them back makes the reader of scenes ready as well, which
  // takes a second that nobody waits for here.
  for (const { id } of [...EXAMPLE_LIST].reverse()) {
    const scene = await projects.example(id);
    if (!scene) continue;
    const made = await projects.create(scene);
    const picture = await readFile(join(picturesDir, `${id}.jpg`)).catch(() => undefined);
    if (picture) await projects.setThumbnail(made.id, picture);
  }
}

/** Makes one worked example: its sounds are synthesised, stored, and written as files. */
export async function makeExample(id: ExampleId, projects: ProjectStore, sounds: SoundStore, folder: string) {
  const example = EXAMPLES[id];
  const files = example.files();
  if (files.size > 0) await mkdir(folder, { recursive: true });
  for (const [name, bytes] of files) await writeFile(join(folder, name), bytes);
  const storedIds: Record<string, string> = {};
  for (const sound of example.sounds) {
    const bytes = files.get(`${sound.id}.wav`)!;
    storedIds[sound.id] = await sounds.announce(sound.name, describeSound(readProjectSound(bytes)));
    await sounds.receive(storedIds[sound.id], inPieces(bytes));
  }
  await projects.addExample(id, example.scene(storedIds));
}

async function* inPieces(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}
