import { EXAMPLE_LIST } from "@bumbrel/api/exampleList";
import { test as base } from "@playwright/test";
import { TestServer } from "./server";

/** The server of all files of a worker that need none of their own. */
export const server = new TestServer();
let isUsed = false;

const ask = async (method: string, path: string, body?: unknown) => {
  const response = await fetch(`${server.address}/api${path}`, {
    method,
    ...(body !== undefined && {
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(body),
    }),
  });
  if (!response.ok) throw new Error(`${method} ${path} was answered with ${response.status}`);
  return response.status === 204 ? undefined : response.json();
};

/** Removes whatever earlier files left behind: the projects are those of a first start again. */
async function restoreExamples(): Promise<void> {
  const { projects } = await ask("GET", "/projects");
  for (const { id } of projects) await ask("DELETE", `/projects/${id}`);
  await ask("DELETE", "/bin");
  // The last changed comes first.
  for (const { id } of EXAMPLE_LIST.toReversed()) await ask("POST", "/projects", { example: id });
}

export const test = base.extend<object, { shared: undefined }>({
  shared: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads from the pattern what a fixture needs
    async ({}, use) => {
      await server.start();
      await use(undefined);
      await server.remove();
    },
    { scope: "worker", auto: true },
  ],
});

/** Makes the shared server ready for a file. */
export async function prepareServer(): Promise<void> {
  if (isUsed) await restoreExamples();
  isUsed = true;
}
