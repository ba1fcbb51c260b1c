import { rmSync } from "node:fs";
import { FIRST_DATA, TestServer } from "./server";
import { bundleStagePage } from "./stageFixture";

/**
 * Starts Bumbrel once on an empty folder, so that the servers of the tests begin where this one ended; and bundles what
 * several tests need.
 */
export default async function firstStart(): Promise<void> {
  const bundling = bundleStagePage();
  rmSync(FIRST_DATA, { recursive: true, force: true });
  const server = new TestServer(FIRST_DATA);
  await server.start();
  await server.stop();
  await bundling;
}
