import { PROGRAM_EXAMPLES } from "../program/examples";
import { EXPOSED_TYPES } from "../program/exposed";
import {
  GLSL_OFFERS,
  type Member,
  POINT_MEMBERS,
  SURFACE_FUNCTIONS,
  SURFACE_MEMBERS,
} from "../program/glslOffers";
import { PROGRAM_KINDS } from "../program/kinds";
import { MAX_LOOP_STEPS } from "../program/loops";

const table = (head: readonly string[], rows: readonly (readonly string[])[]) =>
  [head, head.map(() => "---"), ...rows].map((row) => `| ${row.join(" | ")} |`).join("\n");
const members = (list: readonly Member[]) =>
  table(
    ["", "what it is"],
    list.map(({ signature, help }) => [`\`${signature}\``, help]),
  );

/** docs/programs.md: how surfaces are programmed, from the tables that the editor and the shaders read. */
export function programsReference(): string {
  const examples = Object.values(PROGRAM_EXAMPLES).map(
    ({ label, help, code }) => `### ${label}\n\n${help}\n\n\`\`\`glsl\n${code.trim()}\n\`\`\``,
  );
  return `# Programs

<!-- Written by \`npm run schema\` from the tables in core/src/program. -->

A program is code of your own. Give one to an object in its sheet, under Surface: **Program**, then **Write a program**. The code
stands below the stage and is checked as you type. While it does not work, the last version that did is shown, and
what you type is kept. Several objects can use one program; each has values of its own.

## What can be set from outside

Each value is declared on a line of its own, whose comment says its limits, default, unit and help, in this way:

\`\`\`glsl
uniform float height; // 0 to 2, default 0.5, m: How far it rises.
uniform vec3 tint; // colour, default #ffcc66: Its colour.
uniform int shape; // round | square, default round: Shape of the tiles.
uniform Strand beat; // The strand that makes it jump.
\`\`\`

Numbers, colours and vectors become properties of each object that uses the program: they rest at a value, and strands can be
bound to them. Strands, fans, sounds and images are chosen there. A value that is renamed keeps its bindings.

${table(
  ["type", "what it is, and what its comment says"],
  Object.entries(EXPOSED_TYPES).map(([name, { glsl, help }]) => [
    `\`${glsl}\`${name === "colour" ? " with `colour`" : name === "choice" ? " with words" : ""}`,
    help,
  ]),
)}

## What every program may use

${members(GLSL_OFFERS)}

The language is GLSL ES 3.00. All loops of a program together take ${MAX_LOOP_STEPS} steps at most for each point and
pixel; then they end.

## ${PROGRAM_KINDS.surface.label}

${PROGRAM_KINDS.surface.help} It defines one of these functions, or both:

${members(SURFACE_FUNCTIONS)}

### What \`move\` is given

\`place\` and \`normal\` can be changed.

${members(POINT_MEMBERS)}

### What \`paint\` is given

The first five can be changed. What it decides is lit, shadowed, mirrored, fogged and bloomed like everything else.

${members(SURFACE_MEMBERS)}

## Worked programs

${examples.join("\n\n")}
`;
}
