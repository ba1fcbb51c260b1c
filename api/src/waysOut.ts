import { MODEL_SETTINGS } from "@bumbrel/core/document/modelSettings";
import { PAGE_SETTINGS } from "@bumbrel/core/document/pageSettings";
import { choice, reference, type Settings, text } from "@bumbrel/core/setting/descriptor";

/** Headings under which ways out are offered. */
export const WAY_GROUPS = {
  watch: "To watch and visit",
  games: "For games and other programs",
  project: "The project itself",
} as const;
export type WayGroup = keyof typeof WAY_GROUPS;

/** A way to deliver a project. */
export interface WayOut {
  group: WayGroup;
  label: string;
  help: string;
  /** Words on its button. */
  action: string;
  /** Its settings. */
  settings: Settings;
  /** Ending and media type of the file it gives; a feed gives none. */
  file: { extension: string; media: string } | null;
  /** Maker: the server and the command line, or the browser. */
  maker: "server" | "browser";
}

/** Strands that go along. */
const WHICH = {
  strandId: reference("Strands", "strand", "One strand, or all of them.", { orNone: "all" }),
};

const PACKAGES = "with a README, packages to install, and nothing that needs Bumbrel";

/** Every way out: the one table that the Deliver view, the server's routes, the command line and their tests read. */
export const WAYS_OUT = {
  page: {
    group: "watch",
    label: "Web page",
    help: "One file with the scene, its sounds and the player inside. It plays by itself from disk, with no network, and gives the same numbers as here.",
    action: "Save the page",
    settings: PAGE_SETTINGS,
    file: { extension: "html", media: "text/html" },
    maker: "server",
  },
  folder: {
    group: "watch",
    label: "Web folder",
    help: "The page as a folder for any static host, in a ZIP file: sounds and images are loaded as they are needed, links to it show its picture, and other pages can embed and steer it.",
    action: "Save the folder",
    settings: {
      ...PAGE_SETTINGS,
      address: text(
        "Address",
        "",
        "Where it will be, as https://…, so that links to it show its picture.",
        500,
      ),
    },
    file: { extension: "zip", media: "application/zip" },
    maker: "server",
  },
  film: {
    group: "watch",
    label: "Film, frames, still",
    help: "Rendered frame by frame and never by the clock: picture and sound end on the same sample. As a film, as a ZIP file of frames beside a WAV file, or one still at any size.",
    action: "Make the film",
    settings: {},
    file: { extension: "mp4", media: "video/mp4" },
    maker: "browser",
  },
  numbers: {
    group: "games",
    label: "Numbers for a game",
    help: `The numbers alone, for your own engine: baked curves, the plan they are computed from, the sounds, ${PACKAGES}.`,
    action: "Save the numbers",
    settings: {},
    file: { extension: "zip", media: "application/zip" },
    maker: "server",
  },
  player: {
    group: "games",
    label: "Scene for a three.js game",
    help: `The things of the scene inside your own three.js scene and loop: the scene, the numbers that drive it, its sounds and images, ${PACKAGES}.`,
    action: "Save the scene and player",
    settings: {},
    file: { extension: "zip", media: "application/zip" },
    maker: "server",
  },
  baked: {
    group: "games",
    label: "Baked curves",
    help: "Strands with their cues as one small binary file: 16 bits a number, 100 a second, documented byte by byte, with readers in C and Python.",
    action: "Save the curves",
    settings: WHICH,
    file: { extension: "curves", media: "application/octet-stream" },
    maker: "server",
  },
  model: {
    group: "games",
    label: "Model with motion",
    help: "The things of the scene as one GLB file with their motion baked in: places, sizes, colours, own light, lights and camera. Every reader of glTF plays it.",
    action: "Save the model",
    settings: MODEL_SETTINGS,
    file: { extension: "glb", media: "model/gltf-binary" },
    maker: "server",
  },
  csv: {
    group: "games",
    label: "Table",
    help: "Strands as CSV, raw and shaped, a row for each hundredth of a second; or all cues, a row each.",
    action: "Save the table",
    settings: {
      ...WHICH,
      content: choice(
        "Holds",
        { numbers: "numbers", cues: "cues" },
        "numbers",
        "Numbers over time, or cues.",
      ),
    },
    file: { extension: "csv", media: "text/csv" },
    maker: "server",
  },
  json: {
    group: "games",
    label: "JSON",
    help: "Strands with their shaped numbers, 100 a second, and their cues.",
    action: "Save as JSON",
    settings: WHICH,
    file: { extension: "json", media: "application/json" },
    maker: "server",
  },
  midi: {
    group: "games",
    label: "MIDI file",
    help: "A Standard MIDI File with a track for each strand: its values as controllers, a note for each cue, as hard as the cue is strong.",
    action: "Save the MIDI file",
    settings: WHICH,
    file: { extension: "mid", media: "audio/midi" },
    maker: "server",
  },
  labels: {
    group: "games",
    label: "Labels",
    help: "Cues as text labels for an audio editor: start, end and the strand’s name, with tabs between them.",
    action: "Save the labels",
    settings: WHICH,
    file: { extension: "txt", media: "text/plain" },
    maker: "server",
  },
  feed: {
    group: "games",
    label: "Live feed",
    help: "While the tape plays, strands and cues go to other programs 100 times a second: OSC 1.0, WebSocket, server-sent events, MIDI.",
    action: "Switch the feed on",
    settings: {},
    file: null,
    maker: "browser",
  },
  archive: {
    group: "project",
    label: "Project archive",
    help: "Everything in one ZIP file: the scene, its sounds as they came, images, models, takes and programs, with checksums and a page of contents. The Shelf brings it in again.",
    action: "Save the archive",
    settings: {},
    file: { extension: "zip", media: "application/zip" },
    maker: "server",
  },
  scene: {
    group: "project",
    label: "Scene document",
    help: "The scene as JSON, without sounds: for the command line, for version control, or to open it again here.",
    action: "Save the scene",
    settings: {},
    file: { extension: "scene.json", media: "application/json" },
    maker: "server",
  },
} as const satisfies Record<string, WayOut>;
export type WayOutName = keyof typeof WAYS_OUT;
export const WAY_OUT_NAMES = Object.keys(WAYS_OUT) as WayOutName[];

/** Ways out that the server and the command line make. */
export type MadeWay = {
  [N in WayOutName]: (typeof WAYS_OUT)[N]["maker"] extends "server" ? N : never;
}[WayOutName];
export const MADE_WAYS = WAY_OUT_NAMES.filter((name): name is MadeWay => WAYS_OUT[name].maker === "server");
