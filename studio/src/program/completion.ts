import { choicesFor, identifierOf } from "@bumbrel/core/kinds/programs";
import { LINKS, type LinkType, readExposed } from "@bumbrel/core/program/exposed";
import { EXPOSED_TYPES } from "@bumbrel/core/program/exposedTypes";
import { PROGRAM_KINDS, type ProgramKind } from "@bumbrel/core/program/kinds";
import {
  GLSL_OFFERS,
  type Member,
  PASS_FUNCTIONS,
  PASS_OFFERS,
  PIXEL_MEMBERS,
  POINT_MEMBERS,
  SURFACE_FUNCTIONS,
  SURFACE_MEMBERS,
} from "@bumbrel/core/program/offers/glslOffers";
import { SCRIPT_FUNCTIONS, SCRIPT_OFFERS, SCRIPT_TYPES } from "@bumbrel/core/program/offers/scriptOffers";
import type { Completion, CompletionContext, CompletionResult } from "@codemirror/autocomplete";

/** Things of the project that values of a program can stand for. */
export type Named = Parameters<typeof choicesFor>[0];
type Complete = (context: CompletionContext) => CompletionResult | null;

const offered = ({ name, signature, help }: Member): Completion => ({
  label: name,
  detail: signature.replace(/^(?:readonly|void|float|int|bool|vec\d) /, "").slice(name.length),
  info: `${signature}\n${help}`,
  type: signature.includes("(") ? "function" : "variable",
  boost: 2,
});
const member = ({ name, signature, help }: Member): Completion => ({
  label: name,
  detail: signature.replace(/^readonly /, "").replace(new RegExp(`^(\\w+ )?${name}:? ?`), "$1"),
  info: help,
  type: "property",
});
const words = (text: string) => text.split(" ").map((label): Completion => ({ label, type: "keyword" }));

/** Words of the languages themselves that programs often need. */
const GLSL_WORDS = words(
  "abs acos all any asin atan ceil clamp cos cross degrees distance dot exp exp2 floor fract inversesqrt length log log2 max min mix mod normalize pow radians reflect refract round sign sin smoothstep sqrt step tan transpose texture uniform inout float vec2 vec4 mat3 return if else for while const struct void true false",
);
const SCRIPT_WORDS = words(
  "const let function return if else for of while true false interface Math.abs Math.sin Math.cos Math.PI Math.floor Math.round Math.max Math.min Math.hypot Math.sqrt Math.log2",
);

const MEMBERS_BY_TYPE: Record<string, readonly Member[]> = {
  Point: POINT_MEMBERS,
  Surface: SURFACE_MEMBERS,
  Pixel: PIXEL_MEMBERS,
  ...Object.fromEntries(
    Object.values(SCRIPT_TYPES)
      .flat()
      .map(({ name, members }) => [name, members]),
  ),
};
const FUNCTIONS: Record<ProgramKind, readonly Member[]> = {
  surface: [...GLSL_OFFERS, ...SURFACE_FUNCTIONS],
  pass: [...GLSL_OFFERS, ...PASS_OFFERS, ...PASS_FUNCTIONS],
  drawing: [...SCRIPT_OFFERS, SCRIPT_FUNCTIONS.drawing],
  number: [...SCRIPT_OFFERS, SCRIPT_FUNCTIONS.number],
};

/** Everything that can be written at a place in a program of a kind. */
export function completionOf(kind: ProgramKind, named: () => Named): Complete {
  const { language, exposes } = PROGRAM_KINDS[kind];
  const fixed = [
    ...FUNCTIONS[kind].map(offered),
    ...[...new Set(exposes.map((one) => EXPOSED_TYPES[one][language]))].map(
      (label): Completion => ({
        label,
        info: exposes
          .filter((one) => EXPOSED_TYPES[one][language] === label)
          .map((one) => EXPOSED_TYPES[one].help)
          .join("\n"),
        type: "type",
      }),
    ),
    ...(language === "glsl" ? GLSL_WORDS : SCRIPT_WORDS),
  ];
  return (context) => {
    const code = context.state.doc.toString();
    const found = context.matchBefore(/\b([A-Za-z_]\w*)\.\w*/);
    if (found && !found.text.startsWith("Math.")) {
      const variable = found.text.split(".")[0];
      const exposed = readExposed(code, language, exposes).values;
      const from = found.from + variable.length + 1;
      if (variable === "set" && language === "script") {
        return {
          from,
          options: exposed.map(({ name, help }) => ({ label: name, info: help, type: "property" })),
        };
      }
      const type = typeOf(code, variable);
      const members = type === undefined ? undefined : MEMBERS_BY_TYPE[type];
      return members ? { from, options: members.map(member) } : null;
    }
    const declaring = namesFor(context, named(), language);
    if (declaring) return declaring;
    const word = context.matchBefore(/[A-Za-z_][\w.]*/);
    if (!word && !context.explicit) return null;
    const exposed =
      language === "glsl"
        ? readExposed(code, language, exposes).values.map(
            ({ name, help }): Completion => ({ label: name, info: help, type: "variable", boost: 3 }),
          )
        : [];
    return { from: word?.from ?? context.pos, options: [...exposed, ...fixed] };
  };
}

/** The type that a variable is declared with: `inout Type name` or `name: Type`. */
function typeOf(code: string, variable: string): string | undefined {
  const escaped = variable.replace(/\$/g, "\\$");
  return (
    new RegExp(`\\binout\\s+(\\w+)\\s+${escaped}\\b`).exec(code)?.[1] ??
    new RegExp(`\\b${escaped}\\s*:\\s*(\\w+)\\b`).exec(code)?.[1]
  );
}

/** Names of strands, fans, sounds and images where one is declared: what is named like one is given it. */
function namesFor(
  context: CompletionContext,
  named: Named,
  language: "glsl" | "script",
): CompletionResult | null {
  if (language === "glsl") {
    const found = context.matchBefore(/\buniform\s+(?:Strand|Fan|Sound|sampler2D)\s+\w*/);
    if (!found) return null;
    const [, typeName, typed] = /uniform\s+(\w+)\s+(\w*)$/.exec(found.text)!;
    const type = LINKS.find((one) => EXPOSED_TYPES[one].glsl === typeName)!;
    return { from: context.pos - typed.length, options: completionsOf(named, type, (name) => `${name};`) };
  }
  const found = context.matchBefore(/^\s*\w*/);
  const before = context.state.doc.sliceString(0, found?.from ?? context.pos);
  if (!found || !/interface\s+Exposed\s*\{[^}]*$/.test(before)) return null;
  const typed = found.text.trimStart();
  const options = LINKS.flatMap((type) =>
    completionsOf(named, type, (name) => `${name}: ${EXPOSED_TYPES[type].script};`),
  );
  return { from: context.pos - typed.length, options };
}

const completionsOf = (named: Named, type: LinkType, written: (name: string) => string): Completion[] =>
  choicesFor(named, type).flatMap(({ name }) => {
    const label = identifierOf(name);
    return label === ""
      ? []
      : [{ label, detail: `${type} “${name}”`, apply: written(label), type: "variable", boost: 4 }];
  });
