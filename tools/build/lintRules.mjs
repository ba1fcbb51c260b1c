/** Writes the rules of `biome.json` on imports from the table of rooms; with `--check` says whether they are up to date. */
import { spawnSync } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { ROOMS } from "../rooms.mjs";
import { ROOT } from "../setup.mjs";

/** Folders are nested this deep at most. */
const DEEPEST = 4;

const NAMES = Object.keys(ROOMS);

const packagesBarredFrom = ({ uses }, name) =>
  NAMES.filter((other) => other !== name && !uses.includes(other)).map((other) => `@bumbrel/${other}/*`);

/** Ways in which files of a folder can name another folder beside it. */
const beside = (folder) =>
  Array.from({ length: DEEPEST }, (_, depth) => `${"../".repeat(depth + 1)}${folder}/**`);

const rule = (includes, group, message) => ({
  includes: [includes, "!**/*.test.ts", "!**/*.test.tsx", "!**/testing/**"],
  linter: {
    rules: {
      style: {
        noRestrictedImports: { level: "error", options: { patterns: [{ group, message }] } },
      },
    },
  },
});

const list = (names) => (names.length > 0 ? names.join(", ") : "nothing");

function rulesOf(name) {
  const room = ROOMS[name];
  const outside = [...packagesBarredFrom(room, name), ...room.bars];
  const rules = [rule(`${name}/**`, outside, `${name} may import ${list(room.uses)} only.`)];
  room.layers.forEach((layer, i) => {
    const later = room.layers.slice(i + 1);
    const message = `${name}/src/${layer} may import of its room the layers before it only: ${list(room.layers.slice(0, i))}.`;
    const group = [...outside, ...later.flatMap(beside)];
    rules.push(rule(`${name}/src/${layer}/**`, group, message));
    for (const part of room.apart?.[layer] ?? []) {
      const others = room.apart[layer].filter((one) => one !== part);
      rules.push(
        rule(
          `${name}/src/${layer}/${part}/**`,
          [...group, ...others.flatMap(beside)],
          `None of ${layer} imports another: move what they share down.`,
        ),
      );
    }
  });
  return rules;
}

const path = join(ROOT, "biome.json");
const before = readFileSync(path, "utf8");
const config = JSON.parse(before);
const exceptions = config.overrides.filter(({ linter }) => !linter.rules.style?.noRestrictedImports);
config.overrides = [...NAMES.flatMap(rulesOf), ...exceptions];
const formatted = spawnSync(
  process.execPath,
  [join(ROOT, "node_modules/@biomejs/biome/bin/biome"), "format", "--stdin-file-path=biome.json"],
  { input: JSON.stringify(config, undefined, 2), encoding: "utf8", cwd: ROOT },
).stdout;
if (process.argv.includes("--check")) {
  if (formatted !== before) {
    console.error("biome.json is not as the table of rooms has it: run npm run schema.");
    process.exitCode = 1;
  }
} else writeFileSync(path, formatted);
