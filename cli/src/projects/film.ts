import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  renameSync,
  rmSync,
  writeFileSync,
  writeSync,
} from "node:fs";
import { dirname, join } from "node:path";
import {
  FILM_FORMATS,
  FILM_SETTINGS,
  FILM_SIZES,
  type FilmFormatName,
  type FilmSettings,
  rateOf,
  sizeOf,
} from "@bumbrel/core/document/film/film";
import {
  assembleFilm,
  FILM_SOUND_FILE,
  type FilmLengths,
  type FilmOrder,
  type FilmPart,
  type FilmRequest,
  inOrder,
  inOrderOfParts,
  joinFilm,
  orderOfPart,
  PART_FILE,
  piecesOf,
} from "@bumbrel/core/document/film/filmPieces";
import { FilmTimeLeft } from "@bumbrel/core/document/film/filmTimeLeft";
import { runnableScene } from "@bumbrel/core/document/programsAllowed";
import type { Scene } from "@bumbrel/core/document/scene";
import { commentOf, FilmFileError, type WriteAt } from "@bumbrel/core/format/film/filmFile";
import { isFrame, writeFrames, type ZippedFile } from "@bumbrel/core/format/film/framesFile";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import type { Stores } from "@bumbrel/server/archive/stores";
import { type ZipEntry, ZipFile } from "@bumbrel/server/archive/zipFile";
import { pageParts } from "@bumbrel/server/deliver/pageParts";
import { renderPieces } from "@bumbrel/server/film/renderPieces";
import { ROOT } from "../data";
import {
  type Command,
  type Console,
  choiceFlag,
  numberFlag,
  parsed,
  UsageError,
  writtenAside,
} from "../support/command";
import { archiveUnlessNamed, type OpenedProject, PROJECT_FLAGS, RUN_HELP, withProject } from "./stores";

const RATE = FILM_SETTINGS.ownRate;
const FORMAT_NAMES = Object.keys(FILM_FORMATS) as FilmFormatName[];
const SIZE_NAMES = Object.keys(FILM_SIZES).filter((name) => name !== "own");

export const render: Command = {
  help: `bumbrel render ARCHIVE.zip --out FILM.mp4 [options]
bumbrel render --project PROJECT --out FILM.mp4 [options]
bumbrel render --example NAME --out FILM.mp4 [options]

Renders a film by frame number, without a window, in the installed Chromium. Picture and sound end on the same sample. What
is done is kept beside the film until it is whole: the same line, given again after a crash, goes on from there.

  --out FILE       where it goes
  --format FORMAT  ${FORMAT_NAMES.join(", ")}; by the file's ending unless said
  --size SIZE      ${SIZE_NAMES.join(", ")}, or as 1280x720 (${FILM_SETTINGS.size.default} unless said)
  --fps N          frames a second, from ${RATE.min} to ${RATE.max} (${FILM_SETTINGS.framesPerSecond.default} unless said); 23.976, 29.97, 59.94
                   and the like are taken as 24000/1001, 30000/1001, 60000/1001
  --from S, --to S  seconds of the tape, or of the take (all of it unless said)
  --quality Q      0 is the smallest file, 1 the best picture (${FILM_SETTINGS.quality.default} unless said)
  --sub-frames N   pictures that each frame is the mean of, up to ${FILM_SETTINGS.subFrames.max}: more of them blur what moves
  --take NAME      a take by its name or id, or "none" for the tape alone (the chosen take unless said)
  --part K/N       one share of the work; "bumbrel join" puts the shares together
${RUN_HELP}
Example: bumbrel render regatta.zip --out regatta.mp4 --size upright --fps 30
`,
  async run(args, console) {
    const options = {
      out: { type: "string" },
      ...PROJECT_FLAGS,
      format: { type: "string" },
      size: { type: "string" },
      fps: { type: "string" },
      from: { type: "string" },
      to: { type: "string" },
      quality: { type: "string" },
      "sub-frames": { type: "string" },
      take: { type: "string" },
      part: { type: "string" },
    } as const;
    const { values, positionals } = parsed(args, options, archiveUnlessNamed(args));
    const { out } = values;
    if (out === undefined) throw new UsageError("--out is missing");
    if (!existsSync(dirname(out)))
      throw new UsageError(`${out}: there is no folder ${dirname(out)}; make it first`);
    const settings = settingsOf(values, out);
    tellSize(settings, console);
    const seconds = (flag: "from" | "to") =>
      values[flag] === undefined ? undefined : numberFlag(flag, values[flag], 0, 6 * 3600);
    const request: Omit<FilmRequest, "title"> = {
      settings,
      fromS: seconds("from"),
      toS: seconds("to"),
      part: partFlag(values.part),
    };
    const make = async (project: OpenedProject) => {
      const { stores } = project;
      const scene = runnableScene(project);
      const filmed = { ...scene, takeId: takeOf(scene, values.take) };
      return renderTo(out, filmed, stores, { ...request, title: scene.name }, console);
    };
    return withProject(values, positionals[0], console, make);
  },
};

type RenderFlags = Partial<Record<"format" | "size" | "fps" | "quality" | "sub-frames", string>>;

function settingsOf(values: RenderFlags, out: string): FilmSettings {
  const settings = defaultsOf(FILM_SETTINGS);
  const ending = out.split(".").at(-1)?.toLowerCase();
  const byEnding = FORMAT_NAMES.find((name) => FILM_FORMATS[name].extension === ending);
  if (values.format === undefined && !byEnding)
    throw new UsageError(
      `${out}: its ending says no format; end it in .mp4, .webm or .zip, or give --format`,
    );
  settings.format =
    values.format === undefined ? byEnding! : choiceFlag("format", values.format, FORMAT_NAMES);
  if (values.size !== undefined) {
    const [, width, height] = /^(\d+)x(\d+)$/.exec(values.size) ?? [];
    if (width !== undefined) {
      settings.size = "own";
      settings.width = numberFlag("size", width, FILM_SETTINGS.width.min, FILM_SETTINGS.width.max);
      settings.height = numberFlag("size", height, FILM_SETTINGS.height.min, FILM_SETTINGS.height.max);
    } else settings.size = choiceFlag("size", values.size, SIZE_NAMES) as FilmSettings["size"];
  }
  if (values.fps !== undefined) {
    settings.framesPerSecond = 0;
    settings.ownRate = numberFlag("fps", values.fps, RATE.min, RATE.max);
  }
  if (values.quality !== undefined) settings.quality = numberFlag("quality", values.quality, 0, 1);
  if (values["sub-frames"] !== undefined) {
    const { min, max } = FILM_SETTINGS.subFrames;
    settings.subFrames = Math.round(numberFlag("sub-frames", values["sub-frames"], min, max));
  }
  return settings;
}

/** Says so where a film is not as large as was asked. */
function tellSize(settings: FilmSettings, console: Console): void {
  if (settings.size !== "own") return;
  const { width, height } = sizeOf(settings);
  if (width === settings.width && height === settings.height) return;
  console.error(
    `Sides of films are even: it is made ${width} × ${height}, not ${settings.width} × ${settings.height}.\n`,
  );
}

function partFlag(text: string | undefined): FilmRequest["part"] {
  if (text === undefined) return undefined;
  const [, part, parts] = (/^(\d+)\/(\d+)$/.exec(text) ?? []).map(Number);
  if (!part || part > parts || parts > 10_000)
    throw new UsageError(`--part must be K/N, such as 1/4 to 4/4, not "${text}"`);
  return { part, parts };
}

function takeOf(scene: Scene, wanted: string | undefined): string | null {
  if (wanted === undefined) return scene.takeId;
  if (wanted === "none") return null;
  const takes = scene.assets.filter(({ kind }) => kind === "take");
  const found = takes.find(({ id, name }) => id === wanted || name === wanted);
  if (found) return found.id;
  throw new UsageError(
    `there is no take "${wanted}"; there are ${takes.map(({ name }) => `"${name}"`).join(", ") || "none"}`,
  );
}

/** Renders what is not there yet, and puts the film together. */
async function renderTo(
  out: string,
  scene: Scene,
  stores: Stores,
  request: FilmRequest,
  console: Console,
): Promise<0> {
  const folder = `${out}.pieces`;
  mkdirSync(folder, { recursive: true });
  // Pieces of another film, or of the scene as it was before, are of no use.
  const key = JSON.stringify([request, scene]);
  const keyFile = join(folder, "made-for.json");
  if (!existsSync(keyFile) || readFileSync(keyFile, "utf8") !== key) {
    rmSync(folder, { recursive: true });
    mkdirSync(folder);
    writeFileSync(keyFile, key);
  }
  const pathOf = (name: string) => join(folder, name);
  const isMade = (name: string) => existsSync(pathOf(name));
  let order: FilmOrder | undefined;
  let toldPercent = -1;
  let told = "nothing";
  const clock = new FilmTimeLeft();
  const ending = new AbortController();
  const endings = (["SIGINT", "SIGTERM"] as const).map((signal) => {
    const end = () =>
      ending.abort(
        new UsageError(`${out}: ended by ${signal} with ${told} done; the same line goes on from there`),
      );
    process.once(signal, end);
    return () => process.off(signal, end);
  });
  const made = readdirSync(folder).filter((name) => /^(frames|sound)-\d+$/.test(name));
  if (made.length > 0) console.out(`Going on: ${made.length} pieces are there already.\n`);
  await renderPieces(
    scene,
    stores,
    await pageParts(ROOT),
    { request, made },
    {
      onOrder: (known) => {
        order = known;
      },
      put: async (name, bytes) => {
        if (!piecesOf(order!).names.includes(name)) throw new Error(`${name} is no piece of this film`);
        writeFileSync(`${pathOf(name)}.part`, bytes);
        renameSync(`${pathOf(name)}.part`, pathOf(name));
      },
      signal: ending.signal,
      onProgress: ({ frames, ofFrames }) => {
        told = `${frames} of ${ofFrames} frames`;
        const leftS = clock.leftS(frames, ofFrames, performance.now());
        const percent = ofFrames > 0 ? Math.floor((100 * frames) / ofFrames) : 100;
        if (percent < toldPercent + 5) return;
        toldPercent = percent;
        console.out(`${told}, ${percent} %${leftS === undefined ? "" : `, ${inWords(leftS)} left`}\n`);
      },
    },
  ).finally(() => {
    for (const forget of endings) forget();
  });
  const film = order!;
  const missing = piecesOf(film).names.filter((name) => !isMade(name));
  if (missing.length > 0) throw new UsageError(`${out}: ${missing.length} pieces are missing; render again`);
  const lengths = await writeWhole(out, (writeAt) =>
    assembleFilm(film, async (name) => new Uint8Array(readFileSync(pathOf(name))), writeAt),
  );
  rmSync(folder, { recursive: true });
  tell(out, film, lengths, console);
  return 0;
}

const inWords = (seconds: number): string =>
  seconds < 90 ? `${Math.ceil(seconds)} s` : `${Math.round(seconds / 60)} min`;

function tell(
  out: string,
  { settings }: FilmOrder,
  { frames, samples }: FilmLengths,
  console: Console,
): void {
  const fps = rateOf(settings);
  const sound =
    samples > 0 ? `, ${samples} samples of sound (${samples / 48_000} s)` : ", no sound in this part";
  console.out(`${out}: ${frames} frames at ${Number(fps.toFixed(3))} a second (${frames / fps} s)${sound}\n`);
}

/** Writes a film aside, at any position, and moves it into place once it is whole. */
const writeWhole = <T>(path: string, use: (writeAt: WriteAt) => Promise<T>): Promise<T> =>
  writtenAside(path, async (aside) => {
    const file = openSync(aside, "w");
    try {
      return await use(async (position, bytes) => {
        for (let at = 0; at < bytes.length; )
          at += writeSync(file, bytes, at, bytes.length - at, position + at);
      });
    } catch (error) {
      throw error instanceof FilmFileError ? new UsageError(`${path}: ${error.message}`) : error;
    } finally {
      closeSync(file);
    }
  });

export const joinCommand: Command = {
  help: `bumbrel join PART… --out FILM.mp4

Puts parts that "bumbrel render --part" made into one film, without encoding again: frame for frame what one run gives. The
parts may be named in any order; the first of them carries the sound.

  --out FILE    where it goes

Example: bumbrel join part-1.mp4 part-2.mp4 part-3.mp4 part-4.mp4 --out regatta.mp4
`,
  async run(args, console) {
    const files = args.filter((arg, i) => !arg.startsWith("-") && args[i - 1] !== "--out");
    const { values } = parsed(args, { out: { type: "string" } }, files.length === 0 ? ["PART"] : files);
    const { out } = values;
    if (out === undefined) throw new UsageError("--out is missing");
    if (files.includes(out))
      throw new UsageError(`${out}: this is one of the parts; write into another file`);
    const parts: FilmPart[] = [];
    for (const path of files) parts.push({ path, order: await orderIn(path) });
    const { order } = parts[0];
    const lengths = await writeWhole(out, (writeAt) =>
      FILM_FORMATS[order.settings.format].extension === "zip"
        ? joinFrames(parts, writeAt)
        : joinFilm(parts, writeAt),
    );
    tell(out, order, lengths, console);
    return 0 as const;
  },
};

/** The order that a part was made for. @throws UsageError when it is none */
async function orderIn(path: string): Promise<FilmOrder> {
  if (!existsSync(path)) throw new UsageError(`${path}: there is no such file`);
  const order = orderOfPart(
    await (isZip(path) ? partFileIn(path) : commentOf({ path }).catch(() => undefined)),
  );
  if (!order) throw new UsageError(`${path}: this is no part of a film that "bumbrel render --part" made`);
  return order;
}

const isZip = (path: string): boolean => {
  const start = Buffer.alloc(2);
  const file = openSync(path, "r");
  readSync(file, start, 0, 2, 0);
  closeSync(file);
  return start.toString("latin1") === "PK";
};

/** Frames that a ZIP file holds at most, and bytes of one of its files. */
const MOST_ENTRIES = 2_000_000;
const MOST_BYTES = 4 * 2 ** 30;

async function partFileIn(path: string): Promise<string | undefined> {
  const zip = await ZipFile.open(path, MOST_ENTRIES);
  try {
    const entry = zip.entries.get(PART_FILE);
    return entry && (await bytesOf(zip, entry)).toString("utf8");
  } finally {
    await zip.close();
  }
}

async function bytesOf(zip: ZipFile, entry: ZipEntry): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  for await (const piece of zip.read(entry, MOST_BYTES)) pieces.push(piece);
  return Buffer.concat(pieces);
}

async function joinFrames(parts: readonly FilmPart[], writeAt: WriteAt): Promise<FilmLengths> {
  const sorted = inOrderOfParts(parts);
  const zips: ZipFile[] = [];
  try {
    for (const { path } of sorted) zips.push(await ZipFile.open(path, MOST_ENTRIES));
    async function* frames(): AsyncGenerator<ZippedFile> {
      for (const zip of zips)
        for (const [name, entry] of zip.entries)
          if (isFrame(name)) yield { name, bytes: await bytesOf(zip, entry) };
    }
    const [first] = zips;
    const sound = first.entries.get(FILM_SOUND_FILE);
    const others = sound && { [FILM_SOUND_FILE]: first.read(sound, MOST_BYTES) };
    const { plan } = piecesOf(sorted[0].order);
    return { frames: await writeFrames(frames(), others ?? {}, inOrder(writeAt)), samples: plan.samples };
  } finally {
    for (const zip of zips) await zip.close();
  }
}
