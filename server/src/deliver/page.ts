import { createHash } from "node:crypto";
import { Readable } from "node:stream";
import { createGzip } from "node:zlib";
import {
  hasDrawings,
  neededAssets,
  neededParts,
  neededReaders,
  neededSounds,
} from "@bumbrel/core/analyse/needed";
import type { FilmTask } from "@bumbrel/core/document/film/filmPieces";
import type { ModelSettings } from "@bumbrel/core/document/modelSettings";
import {
  loopsInPage,
  PAGE_SETTINGS,
  type PageOptions,
  type PageSettings,
} from "@bumbrel/core/document/pageSettings";
import type { Scene } from "@bumbrel/core/document/scene";
import { encodedFormatOf } from "@bumbrel/core/format/samples/encoded";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { isStored, type Sound } from "@bumbrel/core/sound/kinds";
import type { Stores } from "../archive/stores";
import { onePiece } from "../archive/zipped";
import type { AssetStore } from "../store/assets";
import type { SoundStore } from "../store/sounds";
import {
  embeddable,
  escapeHtml,
  isReadingPart,
  jsonElement,
  type PageModules,
  type PageParts,
  piecesFor,
  scriptOfPieces,
} from "./pageCode";
import type { RecodedSound } from "./recodedSounds";

/** The licence of a page's code, and of everything of others that is in it. */
function licencesOf({ own, packages }: PageParts["notices"], names: ReadonlySet<string>): string {
  const others = [...names].sort().map((name) => packages[name]);
  const texts = new Set(others.map(({ text }) => text));
  const named = [...texts].map((text) => {
    const heads = others.filter((one) => one.text === text);
    return `${heads.map(({ name, version, licence }) => `--- ${name} ${version} (${licence})`).join("\n")}\n\n${text}\n`;
  });
  return [`The code of this page:\n\n${own}`, ...named].join("\n");
}

/** A block of data that a page reads: code as text, all else as bytes. */
type PageBlock = {
  id: string;
  /** Path in a folder. */
  file: string;
  /** Read only when a visitor asks for it: it stands after the script in a page, so that the scene begins before it has come. */
  isLate?: true;
} & ({ code: string } | { json: unknown } | { size: number; bytes(): AsyncIterable<Uint8Array> });

/** Everything that a page of a scene is put together from. */
export interface PageContents {
  title: string;
  description: string;
  /** Licences of the code, in words. */
  licences: string;
  script: string;
  style: string;
  blocks: PageBlock[];
  /** Parts of the page's own policy that depend on its scene. */
  scriptSources: string;
  workerSources: string;
}

/** Work of a page that nobody watches. */
export type PageWork = { kind: "film"; task: FilmTask } | { kind: "model"; task: ModelSettings };

export interface PageExtras {
  settings?: PageSettings;
  /** Baked numbers of its strands; without them it computes them. */
  curves?: Uint8Array | undefined;
  /** Sounds that go along as other files than they came as. */
  recoded?: ReadonlyMap<string, RecodedSound> | undefined;
  /** Shown until it is ready. */
  poster?: Uint8Array | undefined;
  /** Makes it a page that nobody watches: it makes something and sends it to the server it came from. */
  work?: PageWork;
}

/**
 * Gathers what a page of a scene needs: the player's code, the scene, and every sound and image that is heard, shown or
 * drives something. Bytes are read as they are written, never held whole.
 *
 * @throws Error when a sound or image of the scene is not stored
 */
export async function pageContents(
  scene: Scene,
  { sounds, assets }: Pick<Stores, "sounds" | "assets">,
  parts: PageParts,
  { settings = defaultsOf(PAGE_SETTINGS), curves, recoded, work }: PageExtras,
): Promise<PageContents> {
  const needed = neededSounds(scene);
  const shown = neededAssets(work?.kind === "film" ? { ...scene, takeUse: "demo" } : scene);
  const loop = work ? scene.loop : loopsInPage(settings, scene.loop);
  const delivered: Scene = { ...scene, sounds: needed, assets: shown, loop };
  const hasWords = scene.objects.some(({ kind }) => kind === "text");
  const readers = neededReaders(
    delivered,
    recoded ? settings.sounds !== "wav" : await hasEncoded(needed, sounds),
  );
  const used = neededParts(scene);
  const { controls, kiosk } = settings;
  const soundSamples = Object.fromEntries([...(recoded ?? [])].map(([id, { samples }]) => [id, samples]));
  const blocks: PageBlock[] = [
    { id: "scene", file: "scene.json", json: delivered },
    { id: "options", file: "options.json", json: { controls, kiosk, soundSamples } satisfies PageOptions },
  ];
  const packages = new Set<string>();
  /** Code of the page or of a worker; what of others is in it is noted. */
  const codeOf = <Part extends string>(code: PageModules<Part>, own: readonly Part[]): string => {
    const names = piecesFor(code, own);
    for (const name of names) for (const one of code.modules[name].packages) packages.add(one);
    return scriptOfPieces(code, names);
  };
  const addCode = (id: string, code: string) =>
    blocks.push({ id: `code-${id}`, file: `code/${id}.js`, code });
  const addBytes = (id: string, file: string, bytes: Uint8Array, extra: { isLate?: true } = {}) =>
    blocks.push({ id, file, size: bytes.length, bytes: () => onePiece(bytes), ...extra });
  if (work) blocks.push({ id: work.kind, file: `${work.kind}.json`, json: work.task });
  for (const sound of needed) {
    if (!isStored(sound)) continue;
    const anew = recoded?.get(sound.id);
    if (anew) {
      addBytes(`sound-${sound.id}`, `sounds/${sound.id}`, anew.bytes);
      continue;
    }
    const stored = await sounds.get(sound.storedId);
    if (!stored) throw new Error(`the sound ${sound.storedId} is not stored`);
    const { blobId, byteLength: size } = stored;
    const bytes = () => sounds.bytes(blobId, 0, size - 1);
    blocks.push({ id: `sound-${sound.id}`, file: `sounds/${sound.id}`, size, bytes });
  }
  for (const { id, storedId, name } of shown) {
    const stored = await assets.get(storedId);
    if (!stored) throw new Error(`"${name}" is not stored`);
    const { blobId, byteLength: size } = stored;
    const bytes = () => assets.bytes(blobId, 0, size - 1);
    blocks.push({ id: `asset-${id}`, file: `assets/${id}`, size, bytes });
  }
  if (curves) {
    addBytes("curves", "numbers.curves", curves);
    addCode("reading", codeOf(parts.code.reading, readers.filter(isReadingPart)));
  } else addCode("analysis", codeOf(parts.code.analysis, readers));
  if (used.includes("inputs")) {
    addCode("worklet", embeddable(parts.worklet));
    addCode("live", codeOf(parts.code.live, readers.includes("scripts") ? ["scripts"] : []));
  }
  const hasScripts = readers.includes("scripts") || hasDrawings(scene);
  if (hasScripts) addCode("scripts", codeOf(parts.code.scripts, ["engine"]));
  const person = used.includes("person") ? parts.person : undefined;
  if (person) {
    addBytes("person-page", "person/page", Buffer.from(person.page), { isLate: true });
    for (const [name, bytes] of Object.entries(person.files))
      addBytes(`person-${name}`, `person/${name}`, bytes, { isLate: true });
  }
  if (hasWords) addBytes("letters", "letters.woff", parts.letters);
  // The finder of people runs in a frame of the page, under the page's own policy; its library compiles code of its own.
  const ofPerson = person
    ? ` ${inlineScripts(person.page).map(hashSource).join(" ")} 'unsafe-eval' blob:`
    : "";
  // Worklets and workers are loaded from code inside the page: worklets, for inputs, count as scripts.
  const worklets = used.includes("inputs") ? " data:" : "";
  // Long code does not fit into an address of its own.
  const isLong = hasScripts || readers.includes("encoded");
  const script =
    work?.kind === "model"
      ? codeOf(
          parts.code.model,
          used.filter((part) => part in parts.code.model.parts),
        )
      : codeOf(parts.code.main, work ? [...used, "film"] : used);
  return {
    title: scene.name,
    description: settings.description || scene.about,
    licences: licencesOf(parts.notices, packages),
    script,
    style: `${parts.style}${hasWords ? parts.font : ""}`,
    blocks,
    scriptSources: `'wasm-unsafe-eval'${worklets}${ofPerson}`,
    workerSources: isLong || work ? "data: blob:" : "data:",
  };
}

/**
 * A scene as one web page that plays by itself from disk: the player, the scene and every sound that is heard
 * or drives something are inside, and its own policy lets nothing be fetched.
 *
 * @returns pieces of the page in order
 * @throws Error when a sound of the scene is not stored
 */
export async function* webPage(
  scene: Scene,
  sounds: SoundStore,
  assets: AssetStore,
  parts: PageParts,
  extras: PageExtras = {},
): AsyncGenerator<string> {
  const contents = await pageContents(scene, { sounds, assets }, parts, extras);
  const { script, scriptSources, workerSources } = contents;
  const self = extras.work ? " 'self'" : "";
  const poster = extras.poster && `data:image/jpeg;base64,${Buffer.from(extras.poster).toString("base64")}`;
  yield pageStart(contents, {
    policy: `default-src 'none'; script-src ${hashSource(script)} ${scriptSources}; worker-src ${workerSources}; style-src 'unsafe-inline'; font-src data:; connect-src blob: data:${self}; img-src blob: data:`,
    head: `<style>${contents.style}</style>`,
    poster,
  });
  for (const block of contents.blocks) if (!block.isLate) yield* blockInPage(block);
  yield `<script type="text/plain" id="licences">\n${contents.licences.replaceAll("</script", "<\\/script")}</script>\n`;
  yield `<script>${script}</script>\n`;
  for (const block of contents.blocks) if (block.isLate) yield* blockInPage(block);
  yield "</body>\n</html>\n";
}

/** A block of data as an element of a page. Late bytes are compressed: they are large, and nobody waits for them. */
async function* blockInPage(block: PageBlock): AsyncGenerator<string> {
  if ("json" in block) {
    yield `${jsonElement(block.id, block.json)}\n`;
    return;
  }
  yield `<script type="text/plain" id="${block.id}"${block.isLate ? ' data-packed="gzip"' : ""}>`;
  if ("code" in block) yield block.code;
  else if (block.isLate) yield* asBase64(Readable.from(block.bytes()).pipe(createGzip()));
  else yield* asBase64(block.bytes());
  yield "</script>\n";
}

/** A page up to its blocks of data. */
export function pageStart(
  { title, description }: PageContents,
  { policy, head, poster }: { policy: string; head: string; poster?: string | undefined },
): string {
  const name = escapeHtml(title);
  const said = escapeHtml(description);
  const tags = description
    ? `<meta name="description" content="${said}">\n<meta property="og:description" content="${said}">\n`
    : "";
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="${policy}">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${name}</title>
<meta property="og:type" content="website">
<meta property="og:title" content="${name}">
${tags}${head}
</head>
<body>
<canvas id="stage" role="img" aria-label="${name}${said && `. ${said}`}"></canvas>
${poster ? `<img id="poster" src="${poster}" alt="">\n` : ""}<p id="note" role="status">Getting ready …</p>
<button id="prompt" hidden>Start the sound</button>
<div id="offers"></div>
<div id="bar" hidden>
<button id="toggle" aria-label="Play">▶</button>
<input id="position" type="range" min="0" max="1" step="0.01" value="0" aria-label="Position in seconds">
<span id="clock"></span>
</div>
`;
}

const hashSource = (text: string) => `'sha256-${createHash("sha256").update(text).digest("base64")}'`;

/** The texts of the scripts that stand in a page. */
const inlineScripts = (page: string): string[] =>
  [...page.matchAll(/<script>([\s\S]*?)<\/script>/g)].map(([, text]) => text);

/** True if any sound of a scene is kept encoded. */
async function hasEncoded(needed: readonly Sound[], sounds: SoundStore): Promise<boolean> {
  for (const sound of needed) {
    if (sound.kind !== "file") continue;
    const stored = await sounds.get(sound.storedId);
    if (!stored) continue;
    for await (const start of sounds.bytes(stored.blobId, 0, Math.min(15, stored.byteLength - 1))) {
      if (encodedFormatOf(start)) return true;
    }
  }
  return false;
}

/** Each piece gives whole groups of three bytes, so that the texts join without padding between them. */
async function* asBase64(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
  let rest = Buffer.alloc(0);
  for await (const piece of pieces) {
    const bytes = Buffer.concat([rest, piece]);
    const whole = bytes.length - (bytes.length % 3);
    yield bytes.toString("base64", 0, whole);
    rest = bytes.subarray(whole);
  }
  if (rest.length > 0) yield rest.toString("base64");
}
