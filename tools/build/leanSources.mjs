/** Plugins of the bundler that leave out of delivered code what only the workbench needs. */
import { readdirSync } from "node:fs";
import { readFile } from "node:fs/promises";
import { dirname, join } from "node:path";
import { ROOT } from "../setup.mjs";

/** Rooms in which whole sentences are help and nothing else. */
const DECLARING_ROOMS = /\bcore\/src\/(action|kinds|setting|sound|strand)\/.*\.ts$/;
const NUMBER_ROOMS = /\bcore\/src\/(sound|strand)\/.*\.ts$/;
const THREE_SHADERS = /\bthree\/src\/renderers\/shaders\/.*\.js$/;

/** Documents that are delivered have been checked: neither schemas nor their library go along. */
export const withoutSchemas = {
  name: "without-schemas",
  resolveId: (id) => (id === "@sinclair/typebox" ? join(ROOT, "player/src/page/noSchemas.ts") : undefined),
};

/** Calls that declare a setting or property, whose first argument is its label. */
const LABELLED =
  /\b((?:number|whole|count|numberChoice|choice|toggle|text|vector|colour|reference|objectOf)\(\s*)"[^"\\\n]*"/g;

/** Nobody reads the help, the labels and the words of settings there. */
export const withoutHelp = {
  name: "without-help",
  async load(id) {
    if (!DECLARING_ROOMS.test(id)) return undefined;
    const source = await readFile(id, "utf8");
    const code = source
      .replace(/"[A-Z][^"\\\n]* [^"\\\n]*\."/g, '""')
      .replace(LABELLED, '$1""')
      .replace(/\b(label|help): "[^"\\\n]*"/g, '$1: ""')
      // The words of choices, which have no other use than their labels.
      .replace(/\bchoice\(\s*"",\s*\{[^{}]*\}/g, (call) => call.replace(/: "[^"\\\n]*"/g, ': ""'));
    return { code, moduleType: "ts" };
  },
};

/** The stage's own shaders without comments and indents; they are the only texts there that run over several lines. */
export const plainShaders = {
  name: "plain-shaders",
  async load(id) {
    if (!/\bplayer\/src\/stage\/.*\.ts$/.test(id)) return undefined;
    const source = await readFile(id, "utf8");
    const code = source
      .replace(/\/\*\*[\s\S]*?\*\//g, "")
      .replace(/^[ \t]*\/\/.*$/gm, "")
      .replace(/\n\s+/g, "\n");
    return { code, moduleType: "ts" };
  },
};

/** Shaders of materials that no kind of object has and no model brings. */
const UNUSED_SHADERS =
  /\/shaders\/(ShaderLib\/(meshtoon|meshmatcap|meshphong|meshlambert|linedashed|sprite)|ShaderChunk\/(lights_toon|lights_phong|lights_lambert|gradientmap)_\w+)\.glsl\.js$/;

/** three.js from its sources, one file a class, so that a piece has those it uses; shaders without comments. */
export const threeFromSources = {
  name: "three-from-sources",
  resolveId: (id) => (id === "three" ? join(ROOT, "node_modules/three/src/Three.js") : undefined),
  async load(id) {
    if (!/\bthree\/src\//.test(id)) return undefined;
    if (UNUSED_SHADERS.test(id))
      return { code: 'export const vertex = "", fragment = ""; export default "";', moduleType: "js" };
    const source = await readFile(id, "utf8");
    if (!THREE_SHADERS.test(id)) return { code: source, moduleSideEffects: false };
    const plain = withoutRemarks(source);
    return { code: LIBRARIES.test(id) ? withoutBlanks(plain) : plain, moduleSideEffects: false };
  },
};

/** Shaders that nothing here looks for lines in, to put its own between. */
const LIBRARIES = /\/ShaderChunk\/(?!tonemapping)\w+\.glsl\.js$/;

/** Without blanks around signs; in directives one may part a name from what it stands for. */
const withoutBlanks = (source) =>
  source.replace(/^[^#\n]*[;{}].*$/gm, (line) => line.replace(/ ?([=*/(),;{}<>?:&|[\]]) ?/g, "$1"));

function withoutRemarks(source) {
  return source.replace(
    /\/\* glsl \*\/\s*`([\s\S]*?)`/g,
    (_whole, text) =>
      `\`${text
        .replace(/\/\*[\s\S]*?\*\//g, "")
        .replace(/\/\/.*$/gm, "")
        .replace(/[ \t]+/g, " ")
        .replace(/^ | $/gm, "")
        .replace(/\n+/g, "\n")}\``,
  );
}

/** Parts of a declaration that are for the workbench and the schema, and what stands in their place. */
const DECLARED_FOR_PEOPLE = {
  settings: "{}",
  label: '""',
  help: '""',
  group: '""',
  unit: '""',
  shares: "undefined",
};

/** Calls whose results nobody misses where that is left out. */
export const DECLARING_CALLS = [
  "Type",
  "settingSchemas",
  "range",
  "whole",
  "choice",
  "number",
  "numberChoice",
];

const DECLARED_AS = new Set(["ObjectExpression", "Literal", "Identifier", "ArrowFunctionExpression"]);

/** Strands and sounds as far as they compute: declarations without their settings, no schemas. */
export const numbersOnly = declarationsWithout("numbers-only", DECLARED_FOR_PEOPLE);

/** The same for whole sounds: how far each measure looks ahead matters only to what is heard live. */
export const wholeNumbersOnly = declarationsWithout("whole-numbers-only", {
  ...DECLARED_FOR_PEOPLE,
  ahead: "undefined",
});

/** @param instead  what stands in the place of properties, by their names */
function declarationsWithout(name, instead) {
  return {
    name,
    async load(id) {
      if (!NUMBER_ROOMS.test(id)) return undefined;
      const source = await readFile(id, "utf8");
      const { parseAst } = await import("rolldown/parseAst");
      const cuts = [];
      const visit = (node) => {
        if (!node || typeof node !== "object") return;
        if (Array.isArray(node)) {
          for (const one of node) visit(one);
          return;
        }
        if (node.type === "VariableDeclarator" && /Schema$/.test(node.id.name ?? "") && node.init) {
          cuts.push([node.init.start, node.init.end, "undefined"]);
          return;
        }
        if (node.type === "Property" && !node.shorthand && !node.computed) {
          const other = instead[node.key.name];
          if (other && DECLARED_AS.has(node.value.type)) {
            cuts.push([node.value.start, node.value.end, other]);
            return;
          }
        }
        for (const value of Object.values(node)) visit(value);
      };
      visit(parseAst(source, { lang: "ts" }));
      let code = source;
      for (const [start, end, other] of cuts.sort((a, b) => b[0] - a[0]))
        code = code.slice(0, start) + other + code.slice(end);
      return { code, moduleType: "ts" };
    },
  };
}

/** The room of settings, as far as strands that have all of theirs need it. */
const NO_SETTINGS = `const none = () => ({});
export { none as choice, none as defaultsOf, none as number, none as numberChoice, none as objectOf, none as reference,
  none as text, none as toggle, none as vector, none as whole };`;

/** Rooms that the runtime for games goes without, and what stands in their place: nobody visits there, and no program runs. */
const NOT_IN_RUNTIME = {
  "core/src/program/scripts/scripts.ts":
    "export const areScriptsLoaded = () => true; export const theScripts = () => undefined;",
  "core/src/strand/measures/programmed.ts": "export const PROGRAMMED = {};",
  "core/src/strand/measures/visited.ts": "export const VISITED = {};",
  "core/src/setting/descriptor.ts": NO_SETTINGS,
};

/** Leaves out of the runtime for games what its plans never hold. */
export const withoutPrograms = inPlaceOf("without-programs", NOT_IN_RUNTIME);

/** Code that only some measures need is loaded by itself, see its `later.ts`. */
const MEASURES = "core/src/strand/measures";
const LATER_ROOM = `${MEASURES}/later`;
/** Files that are loaded by themselves, by the names of their parts: `pitch` is `laterPitch.ts`. */
export const LATER_FILES = Object.fromEntries(
  readdirSync(join(ROOT, LATER_ROOM)).flatMap((file) => {
    const [, part] = /^later([A-Z]\w*)\.ts$/.exec(file) ?? [];
    return part ? [[part.toLowerCase(), `${LATER_ROOM}/${file}`]] : [];
  }),
);
/** The file that loads them. */
export const LATER_LOADER = join(ROOT, LATER_ROOM, "later.ts");
const LATER = `import { later } from ${JSON.stringify(LATER_LOADER)};\n`;
const LATER_IMPORTS = [
  {
    by: `${MEASURES}/character.ts`,
    of: `${MEASURES}/readers/pitchReader`,
    code: `${LATER}export const pitchAhead = (...all) => later.pitchAhead(...all);
export const pitchReader = (...all) => later.pitchReader(...all);`,
  },
  {
    by: `${MEASURES}/time.ts`,
    of: `${MEASURES}/heardBeats`,
    code: `${LATER}export function LiveBeats(counted) { return new later.LiveBeats(counted); }
export const soundBeatsSliced = (...all) => later.soundBeatsSliced(...all);`,
  },
  {
    by: `${MEASURES}/character.ts`,
    of: `${MEASURES}/readers/partsReader`,
    code: `${LATER}export const partsReader = (...all) => later.partsReader(...all);`,
  },
  {
    by: "core/src/analyse/strandAnalysis.ts",
    of: "core/src/strand/hearing/partSignal",
    code: `${LATER}export const partSignalSliced = (...all) => later.partSignalSliced(...all);`,
  },
  {
    by: "core/src/strand/hearing/live.ts",
    of: "core/src/strand/hearing/partSignal",
    code: `${LATER}export function LiveParts(wanted) { return new later.LiveParts(wanted); }`,
  },
  {
    by: `${MEASURES}/loudness.ts`,
    of: `${LATER_ROOM}/laterWeighted`,
    code: `${LATER}export function LoudnessMeter(...all) { return new later.LoudnessMeter(...all); }
export function AWeightedMeter(...all) { return new later.AWeightedMeter(...all); }`,
  },
  {
    by: `${MEASURES}/hits.ts`,
    of: `${MEASURES}/readers/hitReader`,
    code: `${LATER}export const hitReader = (...all) => later.hitReader(...all);
export const rangeOfLearnt = (...all) => later.rangeOfLearnt(...all);`,
  },
];
export const withPartsLater = {
  name: "with-parts-later",
  resolveId(source, importer) {
    if (!importer || !source.startsWith(".")) return undefined;
    const imported = join(dirname(importer), source);
    const found = LATER_IMPORTS.findIndex(
      ({ by, of }) => importer === join(ROOT, by) && imported === join(ROOT, of),
    );
    return found < 0 ? undefined : `\0later ${found}`;
  },
  load(id) {
    const [, found] = /^\0later (\d+)$/.exec(id) ?? [];
    return found === undefined ? undefined : { code: LATER_IMPORTS[found].code, moduleType: "js" };
  },
};

/** @param sources  what stands in the place of files, by the ends of their paths */
function inPlaceOf(name, sources) {
  return {
    name,
    load(id) {
      const path = Object.keys(sources).find((one) => id.endsWith(one));
      return path ? { code: sources[path], moduleType: "js" } : undefined;
    },
  };
}
