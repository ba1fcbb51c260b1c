/**
 * Allowed imports between rooms and layers, types included. A room is a workspace; its layers are folders of its `src`, each of which may import
 * those before it. The lint rules are made from this table: `npm run schema` writes them.
 */
export const ROOMS = {
  core: {
    uses: [],
    bars: ["three", "react", "react-dom", "node:*"],
    layers: [
      "dsp",
      "format",
      "setting",
      "action",
      "program",
      "sound",
      "strand",
      "document",
      "kinds",
      "evaluate",
      "simulate",
      "analyse",
      "check",
      "edit",
    ],
  },
  runtime: { uses: ["core"], bars: ["three", "react", "react-dom", "node:*"], layers: [] },
  player: {
    uses: ["core"],
    bars: ["react", "react-dom", "node:*"],
    layers: [
      "sound",
      "camera",
      "audio",
      "scripts",
      "live",
      "stage",
      "staged",
      "film",
      "model",
      "visit",
      "headset",
      "page",
    ],
  },
  api: { uses: ["core"], bars: ["three", "react", "react-dom", "node:*"], layers: [] },
  server: {
    uses: ["core", "api", "demo"],
    bars: ["three", "react", "react-dom"],
    layers: [
      "problem",
      "db",
      "store",
      "archive",
      "scripts",
      "door",
      "chromium",
      "deliver",
      "film",
      "feed",
      "http",
    ],
  },
  cli: {
    uses: ["core", "api", "server"],
    bars: ["three", "react", "react-dom"],
    layers: ["support", "projects", "sounds"],
  },
  demo: {
    uses: ["core", "api"],
    bars: ["three", "react", "react-dom"],
    layers: ["music", "scenes", "pieces"],
  },
  studio: {
    uses: ["core", "api", "player"],
    bars: ["node:*"],
    layers: ["ui", "document", "api", "analysis", "library", "session", "liveStage", "program", "views"],
    /** Folders in which none imports another. */
    apart: { views: ["project", "shelf", "sounds", "strands", "stage", "try", "deliver"] },
  },
};
