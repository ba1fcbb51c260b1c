/** A way to deliver a project. */
export interface WayOut {
  label: string;
  help: string;
  /** Words on its button. */
  action: string;
  /** Parts of the document it needs; without them it cannot be used yet. */
  needs: readonly ("objects" | "sounds")[];
  /** Where it is made: the server, the browser or the command line. */
  maker: { at: "server"; path: string } | { at: "browser" };
}

/** Every way out: the one table that the Deliver view, the server's routes and their tests read. */
export const WAYS_OUT = {
  page: {
    label: "Web page",
    help: "One file with the scene, its sounds and the player inside. It plays by itself from disk, with no network, and gives the same numbers as here.",
    action: "Save the page",
    needs: [],
    maker: { at: "server", path: "page" },
  },
  film: {
    label: "Film, frames, still",
    help: "Rendered frame by frame and never by the clock: picture and sound end on the same sample. As a film, as a ZIP file of frames beside a WAV file, or one still at any size.",
    action: "Make the film",
    needs: [],
    maker: { at: "browser" },
  },
  archive: {
    label: "Project archive",
    help: "Everything in one ZIP file: the scene, its sounds as they came, images, models, takes and programs, with checksums and a page of contents. The Shelf brings it in again.",
    action: "Save the archive",
    needs: [],
    maker: { at: "server", path: "archive" },
  },
  scene: {
    label: "Scene document",
    help: "The scene as JSON, without sounds: for the command line, for version control, or to open it again here.",
    action: "Save the scene",
    needs: [],
    maker: { at: "server", path: "scene" },
  },
} as const satisfies Record<string, WayOut>;
export type WayOutName = keyof typeof WAYS_OUT;
export const WAY_OUT_NAMES = Object.keys(WAYS_OUT) as WayOutName[];
