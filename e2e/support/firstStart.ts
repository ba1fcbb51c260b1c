import { rmSync } from "node:fs";
import { FIRST_DATA, TestServer } from "./server";

/** Starts Bumbrel once on an empty folder, so that the servers of the tests begin where this one ended. */
export default async function firstStart(): Promise<void> {
  rmSync(FIRST_DATA, { recursive: true, force: true });
  const server = new TestServer(FIRST_DATA);
  await server.start();
  await server.stop();
}
