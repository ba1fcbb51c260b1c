import type { TSchema } from "@sinclair/typebox";
import { withArticle } from "./namedEdit";
import { EDITS } from "./table";

const HEAD = `# Edits

Every change of a scene that the workbench makes in one step, by its name. \`bumbrel edit\` carries out a list of them on a scene
file or a stored project, all or nothing:

\`\`\`json
[
  { "edit": "addSound", "args": { "id": "tick", "kind": "clock", "values": { "seconds": 12 } } },
  { "edit": "addStrand", "args": { "id": "beat", "listensTo": { "kind": "sound", "id": "tick", "tap": "before" } } },
  { "edit": "addObject", "args": { "id": "lantern", "kind": "sphere", "name": "Lantern" } },
  { "edit": "bind", "args": { "ids": ["glow"], "objectIds": ["lantern"], "property": "scale", "strandId": "beat" } }
]
\`\`\`

New ids are handed in: letters, digits, \`-\` and \`_\`, at most 64. Whatever a scene has by itself (its camera, its lens, its
backdrop and the like) is named by its kind, such as \`camera\`. The edited scene is checked as a whole by its
[schema](scene.schema.json) and its references; what a value may be is in the [reference](reference.md).

This page is written from the table that the edits are made from (\`core/src/edit/table.ts\`).
`;

/** The documentation of all edits, as Markdown. */
export function editsReference(): string {
  const entries = Object.entries(EDITS).map(([name, { help, args }]) => {
    const required = new Set((args.required as string[] | undefined) ?? []);
    const rows = Object.entries(args.properties).map(
      ([key, schema]) =>
        `| \`${key}\` | ${required.has(key) ? "yes" : "no"} | ${wordsFor(schema as TSchema)} |`,
    );
    return `## ${name}\n\n${help}\n\n| argument | needed | |\n| --- | --- | --- |\n${rows.join("\n")}\n`;
  });
  return [HEAD, ...entries].join("\n");
}

function wordsFor(schema: TSchema): string {
  if (schema.anyOf) return (schema.anyOf as TSchema[]).map(wordsFor).join(", or ");
  // A type or null, see `orNull`.
  if (Array.isArray(schema.type)) return `${wordsFor({ ...schema, type: schema.type[0] })}, or \`null\``;
  if (schema.refersTo) return `id of ${withArticle(schema.refersTo)}`;
  if (schema.names) return `new id of ${withArticle(schema.names)}`;
  if (schema.type === "array") {
    const of = wordsFor(schema.items as TSchema);
    return `list: ${of}${schema.description ? `; ${lower(schema.description)}` : ""}`;
  }
  if (schema.type === "object") {
    const keys = Object.entries((schema.properties ?? {}) as Record<string, TSchema>);
    return keys.map(([key, inner]) => `\`${key}\` (${wordsFor(inner)})`).join(", ");
  }
  if (schema.enum) return `one of ${(schema.enum as string[]).map((one) => `\`${one}\``).join(", ")}`;
  if (schema.const !== undefined) return `\`${schema.const}\``;
  return schema.description ? lower(schema.description) : String(schema.type ?? "a value");
}

const lower = (text: string) => text[0].toLowerCase() + text.slice(1);
