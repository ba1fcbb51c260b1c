import { PROGRAM_EXAMPLES, type ProgramExample } from "../program/examples";
import { EXPOSED_TYPES } from "../program/exposedTypes";
import { PROGRAM_KIND_NAMES, PROGRAM_KINDS, type ProgramKind } from "../program/kinds";
import { MAX_LOOP_STEPS } from "../program/loops";
import {
  GLSL_OFFERS,
  type Member,
  PASS_FUNCTIONS,
  PASS_OFFERS,
  PIXEL_MEMBERS,
  POINT_MEMBERS,
  SURFACE_FUNCTIONS,
  SURFACE_MEMBERS,
} from "../program/offers/glslOffers";
import { SCRIPT_FUNCTIONS, SCRIPT_OFFERS, SCRIPT_TYPES } from "../program/offers/scriptOffers";
import { SCRIPT_LIMITS, SCRIPT_PAST_S } from "../program/scripts/scriptLimits";

const table = (head: readonly string[], rows: readonly (readonly string[])[]) =>
  [head, head.map(() => "---"), ...rows].map((row) => `| ${row.join(" | ")} |`).join("\n");
const inTable = (text: string) => text.replaceAll("|", "\\|");
const members = (list: readonly Member[]) =>
  table(
    ["", "what it is"],
    list.map(({ signature, help }) => [`\`${inTable(signature)}\``, help]),
  );

const WRITTEN = "<!-- Written by `npm run schema` from the tables in core/src/program. -->";

/** Worked programs of a kind, whole. */
function examples(kind: ProgramKind): string {
  const fence = PROGRAM_KINDS[kind].language === "glsl" ? "glsl" : "ts";
  return Object.values<ProgramExample>(PROGRAM_EXAMPLES)
    .filter((one) => one.kind === kind)
    .map(({ label, help, code }) => `### ${label}\n\n${help}\n\n\`\`\`${fence}\n${code.trim()}\n\`\`\``)
    .join("\n\n");
}

const exposedTable = (kind: ProgramKind) => {
  const { language, exposes } = PROGRAM_KINDS[kind];
  return table(
    ["type", "what it is, and what its comment says"],
    exposes.map((name) => [
      `\`${EXPOSED_TYPES[name][language]}\`${name === "colour" && language === "glsl" ? " with `colour`" : name === "choice" && language === "glsl" ? " with words" : ""}`,
      EXPOSED_TYPES[name].help,
    ]),
  );
};

function page(kind: ProgramKind, parts: readonly string[]): string {
  const { label, help } = PROGRAM_KINDS[kind];
  return `# ${label}

${WRITTEN}

${help} [What all programs have in common](../programs.md).

${parts.join("\n\n")}

## Worked programs

${examples(kind)}
`;
}

const EXPOSED_IN_GLSL = (kind: ProgramKind) => `## What can be set from outside

\`\`\`glsl
uniform float height; // 0 to 2, default 0.5, m: How far it rises.
uniform vec3 tint; // colour, default #ffcc66: Its colour.
uniform int shape; // round | square, default round: Shape of the tiles.
uniform Strand beat; // The strand that makes it jump.
\`\`\`

${exposedTable(kind)}

## What it may use

${members(GLSL_OFFERS)}

The language is GLSL ES 3.00. All loops of a program together take ${MAX_LOOP_STEPS} steps at most for each point and
pixel; then they end.`;

const EXPOSED_IN_SCRIPTS = (kind: ProgramKind, sample: string) => `## What can be set from outside

The members of \`interface Exposed\`, which \`set\` holds:

\`\`\`ts
${sample}
\`\`\`

${exposedTable(kind)}`;

const typesOf = (kind: "drawing" | "number") =>
  SCRIPT_TYPES[kind]
    .map((one) => {
      const base = "extends" in one && one.extends ? ` It has what a ${one.extends} has, and:` : "";
      return `### ${one.name}\n\n${one.help}${base}\n\n${members(one.members)}`;
    })
    .join("\n\n");

const SCRIPT_RULES = `## The language

TypeScript or JavaScript, one file, checked as you type. Beside the language's own functions there are:

${members(SCRIPT_OFFERS)}

\`Math.random\` gives the same numbers at the same time. There is no clock, no page, no network, no storage and no other
file. A program that takes more than ${SCRIPT_LIMITS.steps} turns of loops and calls, ${SCRIPT_LIMITS.seconds} s or ${SCRIPT_LIMITS.megabytes} MB is stopped, and says so;
it can be started again. Strands, fans and spectra can be read as they were up to ${SCRIPT_PAST_S} s ago.`;

/** The docs of programs, by their paths in docs: from the tables that the editor, the checks and the engines read. */
export function programsReference(): Record<string, string> {
  const list = PROGRAM_KIND_NAMES.map((kind) => {
    const { label, help } = PROGRAM_KINDS[kind];
    return `- [${label}](programs/${kind}.md): ${help}`;
  });
  return {
    "programs.md": `# Programs

${WRITTEN}

A program is code of your own. There are four kinds:

${list.join("\n")}

Give a surface one in an object's sheet, under Surface. Put a drawing, an overlay drawing or a picture pass on the stage
under Your own code. A strand reads one as its measure. **Write a program** begins with a worked one; the one that is
pointed at is shown moving. The code stands below the stage and is checked as you type. While it does not work, the last version
that did is shown, and what you type is kept. Several things can use one program; each has values of its own.

## What can be set from outside

Each value is declared on a line of its own, whose comment says its limits, default, unit and help: in GLSL as a uniform, in
TypeScript as a member of \`interface Exposed\`. Numbers, colours and vectors become properties of each object that uses the program:
they rest at a value, and strands can be bound to them. Strands, fans, sounds and images are chosen there; one that is named like the
value is chosen by itself, and completion offers those names. A value that is renamed keeps its bindings.

## Programs from elsewhere

A project that brings programs from elsewhere does not run them until you have seen their code and let them. Whatever they are, they
reach neither the network nor the page, other files or the clock; in delivered pages as well.

A shader that the graphics card gives up on is switched off, and everything else comes back; change it, or start it again.
`,
    "programs/surface.md": page("surface", [
      `It defines one of these functions, or both:\n\n${members(SURFACE_FUNCTIONS)}`,
      `## What \`move\` is given\n\n\`place\` and \`normal\` can be changed.\n\n${members(POINT_MEMBERS)}`,
      `## What \`paint\` is given\n\nThe first five can be changed. What it decides is lit, shadowed, mirrored, fogged and bloomed like everything else.\n\n${members(SURFACE_MEMBERS)}`,
      EXPOSED_IN_GLSL("surface"),
    ]),
    "programs/pass.md": page("pass", [
      `It defines this function:\n\n${members(PASS_FUNCTIONS)}`,
      `## What \`paint\` is given\n\n\`colour\` can be changed. Passes follow each other in the order that their sheets show; each reads what the one before has made.\n\n${members(PIXEL_MEMBERS)}\n\nBeside what every program in GLSL may use there are:\n\n${members(PASS_OFFERS)}`,
      EXPOSED_IN_GLSL("pass"),
    ]),
    "programs/drawing.md": page("drawing", [
      `It defines this function:\n\n${members([SCRIPT_FUNCTIONS.drawing])}\n\nIt is called 60 times a second, whatever the screen does; the picture at a time is that of the last sixtieth before it. It is seen on a sheet, which is lit, copied and bound like every body, or over the whole picture. *Fading past* lets the pictures before show through. After a seek, what is in \`memory\` is rebuilt from ${SCRIPT_LIMITS.memorySteps} pictures before, or more where the past fades more slowly.`,
      `## What it is given\n\n${typesOf("drawing")}`,
      EXPOSED_IN_SCRIPTS(
        "drawing",
        "interface Exposed {\n  bands: Fan; // The row that it shows.\n  boxes: Whole; // 2 to 32, default 10: How many boxes there are.\n  ink: Colour; // default #ffd27a: Colour of the lines.\n}",
      ),
      SCRIPT_RULES,
    ]),
    "programs/number.md": page("number", [
      `It defines this function:\n\n${members([SCRIPT_FUNCTIONS.number])}\n\nIt is called 100 times a second, from the beginning of the sound to its end, and live as sound comes in. Its numbers are shaped and make cues like those of every strand.`,
      `## What it is given\n\n${typesOf("number")}`,
      EXPOSED_IN_SCRIPTS(
        "number",
        "interface Exposed {\n  beats: Whole; // 1 to 16, default 4: Hits in a bar.\n  mark: number; // 0 to 1, default 0.5: What counts as a hit.\n}",
      ),
      SCRIPT_RULES,
    ]),
  };
}
