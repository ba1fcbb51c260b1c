import type { PlayerPart, ReaderPart } from "@bumbrel/core/analyse/needed";
import { LATER_PARTS, type LaterPart } from "@bumbrel/core/strand/measures/later/later";

/** A piece of the page's code, as a function body that fills `exports`. */
interface PageModule {
  code: string;
  /** Pieces that have to be there for it, and those it loads if it comes to use them. */
  needs: string[];
  mayNeed: string[];
  /** Names of packages that parts of it come from. */
  packages: string[];
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
    /** Reads a scene into a model, for the server. */
    model: PageModules<PlayerPart>;
    /** Reads sounds and computes strands, in a worker. */
    analysis: PageModules<ReaderPart>;
    /** Runs scripts, in a worker that can be ended. */
    scripts: PageModules<"engine">;
    /** Computes the strands of inputs, in a worker. */
    live: PageModules<"scripts">;
    /** Reads the sounds of pages whose numbers are baked. */
    reading: PageModules<ReadingPart>;
    /** Decodes sounds for the server. */
    decode: PageModules<never>;
    /** Encodes sounds for the server. */
    encode: PageModules<never>;
  };
  /** The licence of the code itself, and those of the packages in it, by their names. */
  notices: {
    own: string;
    packages: Record<string, { name: string; version: string; licence: string; text: string }>;
  };
  /** Captures inputs on the audio thread. */
  worklet: string;
  style: string;
  /** The face of words on the stage; only pages that have some carry it, and the font their letters are made from. */
  font: string;
  letters: Uint8Array;
  /** The finder of people in a camera's picture: a page for a frame, and the library's files. */
  person: { page: string; files: Record<string, Uint8Array> };
  /**
   * Reads a package that games install, such as `@bumbrel/runtime`.
   *
   * @throws BumbrelError when it has not been built
   */
  packed(name: string): Promise<{ file: string; bytes: Uint8Array }>;
}

/** Names of the pieces that a scene uses, each once. */
export function piecesFor<Part extends string>(
  { entry, modules, parts }: PageModules<Part>,
  used: readonly Part[],
): string[] {
  const wanted = new Set<string>();
  const add = (name: string, withAll: boolean) => {
    if (wanted.has(name)) return;
    wanted.add(name);
    for (const one of modules[name].needs) add(one, false);
    if (withAll) for (const one of modules[name].mayNeed) add(one, true);
  };
  add(entry, false);
  for (const part of used) add(parts[part], true);
  return [...wanted];
}

/** Puts the pieces that a scene uses into one script, each once, with a way for them to find each other. */
export const scriptOf = <Part extends string>(code: PageModules<Part>, used: readonly Part[]): string =>
  scriptOfPieces(code, piecesFor(code, used));

export function scriptOfPieces({ entry, modules }: PageModules<string>, names: readonly string[]): string {
  const list = names.map((name) => `${JSON.stringify(name)}(module,exports,require){${modules[name].code}}`);
  return embeddable(
    `(()=>{const pieces={${list.join(",\n")}},made={};const require=(name)=>{if(!made[name]){if(!pieces[name])throw new Error("This page does not carry "+name);pieces[name](made[name]={exports:{}},made[name].exports,require)}return made[name].exports};require(${JSON.stringify(entry)})})();`,
  );
}

/** A page that works for the server, with what it is told to do. */
export const workPage = (title: string, task: unknown, script: string): string =>
  `<!doctype html><title>${escapeHtml(title)}</title>${jsonElement("task", task)}<script>${script}</script>`;

/** Parts that read sounds; the others compute numbers. */
type ReadingPart = Exclude<ReaderPart, "scripts" | LaterPart>;
export const isReadingPart = (part: ReaderPart): part is ReadingPart =>
  part !== "scripts" && !(part in LATER_PARTS);

/** JSON as an element of a page. */
export const jsonElement = (id: string, json: unknown): string =>
  `<script type="application/json" id="${id}">${JSON.stringify(json).replaceAll("<", "\\u003c")}</script>`;

export function escapeHtml(text: string): string {
  return text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
}

/** The player's script as it can be embedded in a page: without anything that would end the script element. */
export function embeddable(script: string): string {
  return script.replaceAll("</script", "<\\/script").replaceAll("<!--", "<\\!--");
}
