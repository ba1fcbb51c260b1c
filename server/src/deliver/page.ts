import { createHash } from "node:crypto";
import {
  neededAssets,
  neededParts,
  neededReaders,
  neededSounds,
  type PlayerPart,
  type ReaderPart,
} from "@bumbrel/core/analyse/needed";
import type { FilmTask } from "@bumbrel/core/document/filmPieces";
import type { Scene } from "@bumbrel/core/document/scene";
import { encodedFormatOf } from "@bumbrel/core/format/encoded";
import { isLive, isStored, type Sound } from "@bumbrel/core/sound/kinds";
import type { AssetStore } from "../store/assets";
import type { SoundStore } from "../store/sounds";

/** A piece of the page's code, as a function body that fills `exports`. */
interface PageModule {
  code: string;
  /** Pieces that have to be there for it, and those it loads if it comes to use them. */
  needs: string[];
  mayNeed: string[];
}

/** The code of a page, or of a worker of it, in pieces. */
export interface PageModules<Part extends string = string> {
  entry: string;
  modules: Record<string, PageModule>;
  /** The piece that each of its parts begins with. */
  parts: Record<Part, string>;
}

/** The built player page's code and style. */
export interface PageParts {
  code: {
    main: PageModules<PlayerPart>;
    /** Reads sounds and computes strands, in a worker. */
    analysis: PageModules<ReaderPart>;
    /** Computes the strands of inputs, in a worker. */
    live: PageModules<"scripts">;
  };
  /** Captures inputs on the audio thread. */
  worklet: string;
  style: string;
  /** The face of words on the stage; only pages that have some carry it, and the font their letters are made from. */
  font: string;
  letters: Uint8Array;
  /** What finds the person in a camera's picture: a page for a frame, and the library's files. */
  person: { page: string; files: Record<string, Uint8Array> };
}

/** Puts the pieces that a scene uses into one script, each once, with a way for them to find each other. */
export function scriptOf<Part extends string>(
  { entry, modules, parts }: PageModules<Part>,
  used: readonly Part[],
): string {
  const wanted = new Set<string>();
  const add = (name: string, withAll: boolean) => {
    if (wanted.has(name)) return;
    wanted.add(name);
    for (const one of modules[name].needs) add(one, false);
    if (withAll) for (const one of modules[name].mayNeed) add(one, true);
  };
  add(entry, false);
  for (const part of used) add(parts[part], true);
  const list = [...wanted].map(
    (name) => `${JSON.stringify(name)}(module,exports,require){${modules[name].code}}`,
  );
  return embeddable(
    `(()=>{const pieces={${list.join(",\n")}},made={};const require=(name)=>{if(!made[name]){if(!pieces[name])throw new Error("This page does not carry "+name);pieces[name](made[name]={exports:{}},made[name].exports,require)}return made[name].exports};require(${JSON.stringify(entry)})})();`,
  );
}

/**
 * A scene as one web page that plays by itself from disk: the player, the scene and every sound that is heard
 * or drives something are inside, and its own policy lets nothing be fetched.
 *
 * @param film  makes it a page that renders a film and sends it to the server it came from
 * @returns pieces of the page in order; sounds are read as they are written, never held whole
 * @throws Error when a sound of the scene is not stored
 */
export async function* webPage(
  scene: Scene,
  sounds: SoundStore,
  assets: AssetStore,
  parts: PageParts,
  film?: FilmTask,
): AsyncGenerator<string> {
  const needed = neededSounds(scene);
  const shown = neededAssets(film ? { ...scene, takeUse: "demo" } : scene);
  const delivered: Scene = { ...scene, sounds: needed, assets: shown };
  const hasWords = scene.objects.some(({ kind }) => kind === "text");
  const readers = neededReaders(delivered, await hasEncoded(needed, sounds));
  const used = neededParts(scene);
  const script = scriptOf(parts.code.main, film ? [...used, "film"] : used);
  const hash = createHash("sha256").update(script).digest("base64");
  const person = used.includes("person") ? parts.person : undefined;
  // What finds the person runs in a frame of the page, under the page's own policy; its library compiles code of its own.
  const ofPerson = person
    ? ` ${inlineScripts(person.page)
        .map((text) => `'sha256-${createHash("sha256").update(text).digest("base64")}'`)
        .join(" ")} 'unsafe-eval' blob:`
    : "";
  // Worklets and workers are loaded from code inside the page: worklets, for inputs, count as scripts.
  const worklets = needed.some(isLive) ? " data:" : "";
  // Long code does not fit into an address of its own.
  const isLong = readers.includes("scripts") || readers.includes("encoded");
  const workers = isLong || film ? "data: blob:" : "data:";
  const policy = `default-src 'none'; script-src 'sha256-${hash}' 'wasm-unsafe-eval'${worklets}${ofPerson}; worker-src ${workers}; style-src 'unsafe-inline'; font-src data:; connect-src blob: data:${film ? " 'self'" : ""}; img-src blob: data:`;

  yield `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="${policy}">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escapeHtml(scene.name)}</title>
<style>${parts.style}${hasWords ? parts.font : ""}</style>
</head>
<body>
<canvas id="stage"></canvas>
<p id="note" role="status">Getting ready …</p>
<button id="prompt" hidden>Start the sound</button>
<div id="offers"></div>
<div id="bar">
<button id="toggle" aria-label="Play">▶</button>
<input id="position" type="range" min="0" max="1" step="0.01" value="0" aria-label="Position in seconds">
<span id="clock"></span>
</div>
<script type="application/json" id="scene">${JSON.stringify(delivered).replaceAll("<", "\\u003c")}</script>
`;
  if (film) {
    yield `<script type="application/json" id="film">${JSON.stringify(film).replaceAll("<", "\\u003c")}</script>\n`;
  }
  for (const sound of needed) {
    if (!isStored(sound)) continue;
    const stored = await sounds.get(sound.storedId);
    if (!stored) throw new Error(`the sound ${sound.storedId} is not stored`);
    yield `<script type="text/plain" id="sound-${sound.id}">`;
    yield* asBase64(sounds.bytes(stored.blobId, 0, stored.byteLength - 1));
    yield "</script>\n";
  }
  for (const { id, storedId, name } of shown) {
    const stored = await assets.get(storedId);
    if (!stored) throw new Error(`"${name}" is not stored`);
    yield `<script type="text/plain" id="asset-${id}">`;
    yield* asBase64(assets.bytes(stored.blobId, 0, stored.byteLength - 1));
    yield "</script>\n";
  }
  const codes = {
    analysis: scriptOf(parts.code.analysis, readers),
    ...(used.includes("inputs") && {
      worklet: embeddable(parts.worklet),
      live: scriptOf(parts.code.live, readers.includes("scripts") ? ["scripts"] : []),
    }),
  };
  for (const [id, code] of Object.entries(codes)) {
    yield `<script type="text/plain" id="code-${id}">${code}</script>\n`;
  }
  if (person) {
    yield `<script type="text/plain" id="person-page">${Buffer.from(person.page).toString("base64")}</script>\n`;
    for (const [name, bytes] of Object.entries(person.files)) {
      yield `<script type="text/plain" id="person-${name}">${Buffer.from(bytes).toString("base64")}</script>\n`;
    }
  }
  if (hasWords) {
    yield `<script type="text/plain" id="letters">${Buffer.from(parts.letters).toString("base64")}</script>\n`;
  }
  yield `<script>${script}</script>\n</body>\n</html>\n`;
}

/** The texts of the scripts that stand in a page. */
const inlineScripts = (page: string): string[] =>
  [...page.matchAll(/<script>([\s\S]*?)<\/script>/g)].map(([, text]) => text);

/** Whether any sound of a scene is kept encoded. */
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

function escapeHtml(text: string): string {
  return text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
}

/** The player's script as it can be embedded in a page: without anything that would end the script element. */
export function embeddable(script: string): string {
  return script.replaceAll("</script", "<\\/script").replaceAll("<!--", "<\\!--");
}
