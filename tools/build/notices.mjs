/** Licence texts of what is handed over: our own, and those of the packages that went into it. */
import { existsSync, readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { ROOT } from "../setup.mjs";

/** Delivered code may be used by anybody for anything; see also the licence of the application itself. */
export const MIT = `MIT License

Copyright (c) 2026 The Bumbrel authors

Permission is hereby granted, free of charge, to any person obtaining a copy of this software and associated documentation
files (the "Software"), to deal in the Software without restriction, including without limitation the rights to use, copy,
modify, merge, publish, distribute, sublicense, and/or sell copies of the Software, and to permit persons to whom the
Software is furnished to do so, subject to the following conditions:

The above copyright notice and this permission notice shall be included in all copies or substantial portions of the
Software.

THE SOFTWARE IS PROVIDED "AS IS", WITHOUT WARRANTY OF ANY KIND, EXPRESS OR IMPLIED, INCLUDING BUT NOT LIMITED TO THE
WARRANTIES OF MERCHANTABILITY, FITNESS FOR A PARTICULAR PURPOSE AND NONINFRINGEMENT. IN NO EVENT SHALL THE AUTHORS OR
COPYRIGHT HOLDERS BE LIABLE FOR ANY CLAIM, DAMAGES OR OTHER LIABILITY, WHETHER IN AN ACTION OF CONTRACT, TORT OR OTHERWISE,
ARISING FROM, OUT OF OR IN CONNECTION WITH THE SOFTWARE OR THE USE OR OTHER DEALINGS IN THE SOFTWARE.
`;

/** Names of the packages that some modules come from. */
export function packagesOf(moduleIds) {
  const names = new Set();
  for (const id of moduleIds) {
    const [, name] = /.*node_modules\/((?:@[^/]+\/)?[^/]+)\//.exec(id.replaceAll("\\", "/")) ?? [];
    if (name) names.add(name);
  }
  return [...names].sort();
}

/** The licence of a package: its name, version and the text that comes with it. */
export function noticeOf(name) {
  const folder = join(ROOT, "node_modules", name);
  const { version, license, author } = JSON.parse(readFileSync(join(folder, "package.json"), "utf8"));
  const file = readdirSync(folder).find((one) => /^(licen[cs]e|copying)/i.test(one));
  const by = typeof author === "string" ? author : author?.name;
  const text = file
    ? readFileSync(join(folder, file), "utf8").trim()
    : `Licensed under ${license}${by ? `, copyright ${by}` : ""}; the package carries no text of it.`;
  return { name, version, licence: license, text };
}

/** A file of notices for what some modules come from. */
export function noticesText(names) {
  const notices = names.filter((name) => existsSync(join(ROOT, "node_modules", name))).map(noticeOf);
  if (notices.length === 0) return "Nothing of others is inside.\n";
  return `Parts of others are inside, under these licences.\n${notices
    .map(({ name, version, licence, text }) => `\n--- ${name} ${version} (${licence})\n\n${text}\n`)
    .join("")}`;
}
