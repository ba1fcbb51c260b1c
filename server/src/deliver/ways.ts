import { type MadeWay, WAYS_OUT } from "@bumbrel/api/waysOut";
import { drivingStrands, neededAssets, neededSounds } from "@bumbrel/core/analyse/needed";
import { bakesNumbers, type PageSettings } from "@bumbrel/core/document/pageSettings";
import { runnableScene } from "@bumbrel/core/document/programsAllowed";
import { ASSET_KINDS, type Scene, type Strand } from "@bumbrel/core/document/scene";
import { BumbrelError } from "@bumbrel/core/errors";
import { plainFileName } from "@bumbrel/core/format/bytes/fileName";
import { cueTracks, writeCueMidi } from "@bumbrel/core/format/samples/cueMidi";
import type { Settings, ValuesOf } from "@bumbrel/core/setting/descriptor";
import { settingsFromTexts } from "@bumbrel/core/setting/fromText";
import { isStored } from "@bumbrel/core/sound/kinds";
import { allCueLabels, type CueList, cuesTable, strandJson, strandRows } from "@bumbrel/core/strand/tables";
import { writeArchive } from "../archive/writeArchive";
import { onePiece } from "../archive/zipped";
import { gameKit } from "./gameKit";
import { modelFile } from "./modelFile";
import { webPage } from "./page";
import { playerKit } from "./playerKit";
import { curveOf, curvesOf, type ProjectNumbers, projectNumbers } from "./projectNumbers";
import { recodedSounds } from "./recodedSounds";
import type { WayProject, WayRoom } from "./wayRoom";
import { webFolder } from "./webFolder";

type Pieces = AsyncIterable<Uint8Array | string> | Iterable<string>;
type Maker<N extends MadeWay> = (
  room: WayRoom,
  settings: ValuesOf<(typeof WAYS_OUT)[N]["settings"]>,
) => Promise<Pieces> | Pieces;

/** Makers of the ways out. Each fails before its first piece if it can. */
const MAKERS: { [N in MadeWay]: Maker<N> } = {
  page: async (room, settings) => {
    await assertStored(room);
    return webPage(room.scene, room.stores.sounds, room.stores.assets, room.parts, {
      settings,
      ...(await soundsAndNumbers(room, settings)),
      poster: await room.stores.projects.thumbnail(room.projectId),
    });
  },
  folder: async (room, settings) => {
    await assertStored(room);
    return webFolder(room, settings, await soundsAndNumbers(room, settings));
  },
  numbers: async (room) => gameKit(room, await numbersOf(room, null)),
  player: async (room) => {
    await assertStored(room);
    return playerKit(room);
  },
  baked: async (room, { strandId }) => onePiece(curvesOf(await numbersOf(room, strandId))),
  model: async (room, settings) => {
    await assertStored(room);
    return onePiece(await modelFile(room, settings));
  },
  csv: async (room, { strandId, content }) => {
    const numbers = await numbersOf(room, strandId);
    if (content === "cues") return [cuesTable(someCues(room, numbers))];
    const { strands } = numbers;
    return strandRows(
      strands.map(({ strand: { name, measure }, raw, track: { values: shaped, width } }) => ({
        name,
        measure,
        raw,
        shaped,
        width,
      })),
    );
  },
  json: async (room, { strandId }) => {
    const { strands, lengthS } = await numbersOf(room, strandId);
    return strandJson(room.scene.name, lengthS, strands.map(curveOf));
  },
  midi: async (room, { strandId }) =>
    onePiece(
      writeCueMidi(
        cueTracks(
          (await numbersOf(room, strandId)).strands.map(({ strand: { name, cues }, track }) => ({
            name,
            cues: cues.on ? (track.cues ?? []) : [],
            numbers: track,
          })),
        ),
      ),
    ),
  labels: async (room, { strandId }) => [allCueLabels(someCues(room, await numbersOf(room, strandId)))],
  archive: ({ projectId, stores }) => writeArchive([projectId], stores),
  scene: ({ document: scene }) => [`${JSON.stringify(scene, null, 2)}\n`],
};

/**
 * Makes a way out of a project.
 *
 * @param texts  its settings, as an address or a command line has them
 * @returns pieces of the file in order; nothing large is held whole
 * @throws RangeError for settings there are not; BumbrelError for what the project lacks
 */
export async function makeWay(
  name: MadeWay,
  project: WayProject,
  texts: Readonly<Record<string, string | undefined>> = {},
): Promise<Pieces> {
  const room = { ...project, scene: runnableScene({ ...project, scene: project.document }) };
  const settings = settingsFromTexts(WAYS_OUT[name].settings as Settings, texts);
  return (MAKERS[name] as Maker<MadeWay>)(room, settings as never);
}

/** The file name of a way out. */
export const wayFileName = (name: MadeWay, scene: Scene): string =>
  `${plainFileName(scene.name, "scene")}.${WAYS_OUT[name].file.extension}`;

/** One strand by its id or name, or all of them. */
function chosen(scene: Scene, wanted: string | null): readonly Strand[] {
  if (wanted === null) return scene.strands;
  const found = scene.strands.find(({ id, name }) => id === wanted || name === wanted);
  if (found) return [found];
  const names = scene.strands.map(({ name }) => `"${name}"`).join(", ");
  throw new RangeError(`there is no strand "${wanted}"; there are ${names || "none"}`);
}

/** Numbers of strands; without any that has some there is nothing to deliver. */
async function numbersOf(room: WayRoom, wanted: string | null): Promise<ProjectNumbers> {
  const { scene, stores, parts, signal } = room;
  const numbers = await projectNumbers(scene, chosen(scene, wanted), stores.sounds, parts, signal);
  if (numbers.strands.length > 0) return numbers;
  const [first] = numbers.left;
  throw new BumbrelError({
    code: "no-numbers",
    what: first ? `"${first.name}" has no numbers: ${first.why}` : "it has no strands",
    where: `the project "${scene.name}"`,
    remedy: "Let a strand listen to a sound in the Strands view, then deliver",
  });
}

/** Curves of the strands that drive something. */
async function driven(room: WayRoom): Promise<Uint8Array> {
  const { scene, stores, parts, signal } = room;
  return curvesOf(await projectNumbers(scene, drivingStrands(scene), stores.sounds, parts, signal));
}

/** Baked numbers of a page, and its sounds as other files, where they are wanted. */
const soundsAndNumbers = async (room: WayRoom, settings: PageSettings) => ({
  curves: bakesNumbers(settings) ? await driven(room) : undefined,
  recoded: settings.sounds === "asTheyCame" ? undefined : await recodedSounds(room, settings.sounds),
});

const cueLists = (strands: ProjectNumbers["strands"]): CueList[] =>
  strands
    .filter(({ strand }) => strand.cues.on)
    .map(({ strand: { name }, track: { cues = [] } }) => ({ name, cues }));

/** Cues of strands. @throws BumbrelError when none gives any: an empty file would say nothing */
function someCues({ scene }: WayRoom, { strands }: ProjectNumbers): CueList[] {
  const lists = cueLists(strands);
  if (lists.some(({ cues }) => cues.length > 0)) return lists;
  throw new BumbrelError({
    code: "no-cues",
    what: "no strand gives a cue",
    where: `the project "${scene.name}"`,
    remedy: "Switch cues on in the Strands view, or lower the mark, then deliver",
  });
}

/** @throws BumbrelError naming what of a scene is not stored */
async function assertStored({ scene, stores: { sounds, assets } }: WayRoom): Promise<void> {
  const missing = (what: string, view: string) =>
    new BumbrelError({
      code: "not-stored",
      what: "it has not been stored whole",
      where: what,
      remedy: `Add it again in the ${view} view, then deliver`,
    });
  for (const sound of neededSounds(scene)) {
    if (isStored(sound) && !(await sounds.get(sound.storedId)))
      throw missing(`the sound "${sound.name}"`, "Sounds");
  }
  for (const { kind, name, storedId } of neededAssets(scene)) {
    if (!(await assets.get(storedId))) throw missing(`the ${ASSET_KINDS[kind].label} "${name}"`, "Stage");
  }
}
