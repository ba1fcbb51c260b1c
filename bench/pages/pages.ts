import { readFileSync } from "node:fs";
import { gzipSync } from "node:zlib";
import { PLAYER_PARTS, type PlayerPart } from "@bumbrel/core/analyse/needed";
import type { PageParts } from "@bumbrel/server/deliver/pageCode";
import { scriptOf } from "@bumbrel/server/deliver/pageCode";

/** Size of a delivered page's code, by the parts of the player that its scene uses. */
const code = JSON.parse(readFileSync("player/dist/page.json", "utf8")) as PageParts["code"];
const all = Object.keys(PLAYER_PARTS) as PlayerPart[];
for (const used of [[], ["effects"], ["effects", "occlusion"], all] as PlayerPart[][]) {
  const script = scriptOf(code.main, used);
  const what = `page code with ${used.length === all.length ? "all parts" : used.join(", ") || "no parts"}`;
  const sizes = [script.length, gzipSync(script).length].map((bytes) => `${(bytes / 1024).toFixed(0)} kB`);
  console.log(what.padEnd(46), `${sizes[0]}, ${sizes[1]} gzip`);
}
