import { drivingStrands, neededAssets, neededSounds } from "@bumbrel/core/analyse/needed";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { isLive } from "@bumbrel/core/sound/kinds";
import { heldFile, type ZipSource, zipped } from "../archive/zipped";
import { soundFiles, soundPath } from "./gameKit";
import { curvesOf, projectNumbers } from "./projectNumbers";
import { soundDataOf } from "./soundData";
import type { WayRoom } from "./wayRoom";

/**
 * A scene for a three.js game, in a ZIP file: the scene, baked curves of what drives it, its images and models, its sounds at
 * 48 kHz, the player as a package, and a README.
 *
 * @throws BumbrelError for a sound that cannot be read
 */
export async function playerKit({
  scene,
  stores: { sounds, assets },
  parts,
  signal,
}: WayRoom): Promise<AsyncIterable<Uint8Array>> {
  const player = await parts.packed("@bumbrel/player");
  const needed = neededSounds(scene);
  const numbers = await projectNumbers(scene, drivingStrands(scene), sounds, parts, signal);
  const others = needed.filter((sound) => !isLive(sound) && !numbers.sounds.has(sound.id));
  const data = new Map([
    ...numbers.sounds,
    ...(await soundDataOf(scene, new Set(others.map(({ id }) => id)), sounds, parts, signal)),
  ]);
  const shown = neededAssets(scene);
  const hasWords = scene.objects.some(({ kind }) => kind === "text");
  const staged = {
    scene: { ...scene, sounds: needed, assets: shown },
    soundsS: Object.fromEntries([...data].map(([id, { mono }]) => [id, mono.length / SAMPLE_RATE_HZ])),
  };
  const heard = needed.filter(({ id }) => (data.get(id)?.channels?.length ?? 0) > 0);
  const sources: ZipSource[] = [
    {
      path: "README.md",
      text: readme(scene.name, player.file, {
        sounds: heard.map(({ name }) => name),
        hasAssets: shown.length > 0,
        hasWords,
        left: numbers.left,
      }),
    },
    { path: "staged.json", text: `${JSON.stringify(staged)}\n` },
    heldFile("numbers.curves", curvesOf(numbers)),
    heldFile(player.file, player.bytes),
    ...soundFiles(heard, data),
  ];
  for (const { id, name, storedId } of shown) {
    const stored = await assets.get(storedId);
    if (!stored) throw new Error(`"${name}" is not stored`);
    const { blobId, byteLength: size } = stored;
    sources.push({ path: `assets/${id}`, size, bytes: () => assets.bytes(blobId, 0, size - 1) });
  }
  if (hasWords) sources.push(heldFile("letters.woff", parts.letters));
  return zipped(sources, new Date());
}

function readme(
  name: string,
  file: string,
  has: {
    sounds: readonly string[];
    hasAssets: boolean;
    hasWords: boolean;
    left: readonly { name: string; why: string }[];
  },
): string {
  const options = [
    'curves: await (await fetch("numbers.curves")).arrayBuffer(),',
    ...(has.hasAssets ? ['asset: async (id) => (await fetch("assets/" + id)).arrayBuffer(),'] : []),
    ...(has.hasWords ? ['letters: async () => (await fetch("letters.woff")).arrayBuffer(),'] : []),
  ];
  return `# ${name}: in your own three.js scene

    npm install ./${file} three

\`\`\`js
import { StagedScene } from "@bumbrel/player";

const staged = await StagedScene.load(await (await fetch("staged.json")).json(), {
${options.map((line) => `  ${line}`).join("\n")}
});
scene.add(staged.root);
renderer.setAnimationLoop(() => {
  staged.update(music.currentTime, camera);
  renderer.render(scene, camera);
});
\`\`\`

\`music\` is whatever plays the sound: an \`<audio>\` element, or your own clock. The README of the package says more.

## Files

- \`staged.json\`: the scene.
- \`numbers.curves\`: the numbers that drive it, 100 a second.
${has.sounds.map((sound) => `- \`${soundPath(sound)}\`: the sound "${sound}", at 48 000 samples a second.\n`).join("")}${has.hasAssets ? "- `assets`: its images and models.\n" : ""}${has.hasWords ? "- `letters.woff`: the font of its words.\n" : ""}- \`${file}\`: the player.
${has.left.map(({ name: strand, why }) => `\n"${strand}" has no numbers here: ${why}`).join("")}
`;
}
