import type { NumbersPlan } from "@bumbrel/core/analyse/planned";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { plainFileName } from "@bumbrel/core/format/bytes/fileName";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import type { SoundData } from "@bumbrel/core/sound/signal";
import { heldFile, type ZipSource, zipped } from "../archive/zipped";
import { curvesOf, type ProjectNumbers } from "./projectNumbers";
import type { WayRoom } from "./wayRoom";

/**
 * The numbers of a project for a game, in a ZIP file: baked curves, the plan they are computed from, the sounds at 48 kHz, the
 * runtime as a package, and a README.
 */
export async function gameKit(room: WayRoom, numbers: ProjectNumbers): Promise<AsyncIterable<Uint8Array>> {
  const runtime = await room.parts.packed("@bumbrel/runtime");
  const plan = handedOver(numbers);
  const sources: ZipSource[] = [
    { path: "README.md", text: readme(room.scene.name, runtime.file, plan, numbers) },
    { path: "numbers.json", text: `${JSON.stringify(plan)}\n` },
    heldFile("numbers.curves", curvesOf(numbers)),
    heldFile(runtime.file, runtime.bytes),
    ...soundFiles(plan.sounds, numbers.sounds),
  ];
  return zipped(sources, new Date());
}

/** Sounds as WAV files of 32-bit floats, for a kit. */
export const soundFiles = (
  sounds: readonly { id: string; name: string }[],
  data: ReadonlyMap<string, SoundData>,
): ZipSource[] =>
  sounds.map(({ id, name }) =>
    heldFile(soundPath(name), writeWav(data.get(id)!.channels as Float32Array[], SAMPLE_RATE_HZ, "float32")),
  );

/** Path of a sound in a kit. */
export const soundPath = (name: string) => `sounds/${plainFileName(name, "sound")}.wav`;

/** The plan as a runtime computes it: without strands that need programs, with the contents of note files and tables. */
function handedOver({ plan, sounds, left }: ProjectNumbers): NumbersPlan {
  const byProgram = new Set(plan.strands.filter(({ code }) => code !== undefined).map(({ id }) => id));
  // Strands made of them cannot be computed either.
  for (const { id, from } of plan.strands)
    if (from.kind === "strands" && from.ids.some((one) => byProgram.has(one))) byProgram.add(id);
  return {
    ...plan,
    sounds: plan.sounds
      .filter(({ id }) => sounds.has(id))
      .map((sound) => {
        const { weights, notes, table } = sounds.get(sound.id)!;
        const file = soundPath(sound.name);
        return {
          ...sound,
          file,
          ...(weights && { weights: [...weights] }),
          ...(notes && { notes }),
          ...(table && { table: plainTable(table) }),
        };
      }),
    strands: plan.strands.filter(({ id }) => !byProgram.has(id)),
    left: [
      ...left.filter(({ id }) => !plan.strands.some((strand) => strand.id === id && strand.isLive)),
      ...plan.strands
        .filter(({ id }) => byProgram.has(id))
        .map(({ id, name }) => ({ id, name, why: "A program computes it: it is in numbers.curves." })),
    ],
  };
}

/** A table whose numbers JSON keeps. */
const plainTable = <T extends { columns: { values: Float32Array }[] }>(table: T): T => ({
  ...table,
  columns: table.columns.map((column) => ({ ...column, values: Array.from(column.values) as never })),
});

function readme(name: string, file: string, plan: NumbersPlan, { strands, left }: ProjectNumbers): string {
  const rows = strands.map(
    ({ strand, track }) =>
      `| ${strand.name} | ${track.width} | ${strand.cues.on ? (track.cues?.length ?? 0) : "none"} |`,
  );
  const first = strands[0].strand.name;
  return `# ${name}: its numbers

    npm install ./${file}

## Numbers in your own loop

\`\`\`js
import { openBaked } from "@bumbrel/runtime";

const numbers = openBaked(await (await fetch("numbers.curves")).arrayBuffer());
const strand = numbers.strand(${JSON.stringify(first)});
function frame() {
  show(strand.at(music.currentTime));
  requestAnimationFrame(frame);
}
\`\`\`

In Node: \`openBaked(await readFile("numbers.curves"))\`. Other engines read \`numbers.curves\` by its description: 20 bytes of
head, a block a strand, 16 bits a number; the README of the package says where it stands, with readers in C and Python.

| strand | numbers | cues |
|---|---|---|
${rows.join("\n")}
${left.map(({ name: strand, why }) => `\n"${strand}" is not among them: ${why}`).join("")}

## Files

- \`numbers.curves\`: every strand, 100 numbers a second, with its cues.
- \`numbers.json\`: how they are computed, for \`@bumbrel/runtime/compute\` and \`@bumbrel/runtime/live\`.
${plan.sounds.map((sound) => `- \`${soundPath(sound.name)}\`: the sound "${sound.name}", at 48 000 samples a second.`).join("\n")}
- \`${file}\`: the runtime, whose own README says more.
`;
}
