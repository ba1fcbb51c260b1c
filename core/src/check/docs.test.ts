import { existsSync, readdirSync, readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { describe, expect, it } from "@jest/globals";
import { sceneSchema } from "../document/scene";
import { SCENE_VERSION } from "../document/sceneLimits";

const PAGES = [
  "README.md",
  "CONTRIBUTING.md",
  ...readdirSync("docs")
    .filter((name) => name.endsWith(".md"))
    .map((name) => join("docs", name)),
];
/** Made at the first start, in the folder of the data. */
const MADE = /^examples\/[\w-]+\/$/;
const ROOMS = /^(?:core|runtime|player|api|server|cli|studio|demo|e2e|bench|docs|tools|examples)\//;

describe("the docs", () => {
  it.each(PAGES)("name nothing that is not there: %s", (page) => {
    const text = readFileSync(page, "utf8");
    const links = [...text.matchAll(/\]\((?!https?:|#|mailto:)([^)#\s]+)/g)].map(([, to]) =>
      join(dirname(page), to),
    );
    const files = [...text.matchAll(/`([\w./*-]+)`/g)]
      .map(([, path]) => path)
      .filter((path) => ROOMS.test(path) && !path.includes("*") && !MADE.test(path));
    expect([...links, ...files].filter((path) => !existsSync(path))).toEqual([]);
  });

  it("tell the version of scenes and every part of them", () => {
    const text = readFileSync("docs/scene.md", "utf8");
    expect(text).toContain(`\`"bumbrel-scene"\` and ${SCENE_VERSION};`);
    const rows = [...text.matchAll(/^\| ((?:`\w+`(?:, )?)+) +\|/gm)].flatMap(([, names]) =>
      [...names.matchAll(/`(\w+)`/g)].map(([, name]) => name),
    );
    const parts = Object.keys(sceneSchema([]).properties);
    expect(parts.filter((part) => !rows.includes(part))).toEqual([]);
  });
});
