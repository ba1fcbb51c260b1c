import { spawn } from "node:child_process";
import { join } from "node:path";
import { createInterface } from "node:readline";

/** A PostgreSQL server of a test's own. */
export interface TestPostgres {
  url: string;
  /** Cuts all its sessions at once, and starts it again on the same data. */
  crash(): Promise<void>;
  remove(): Promise<void>;
}

/** Starts a PostgreSQL server with an empty database. */
export async function startPostgres(): Promise<TestPostgres> {
  const child = spawn(process.execPath, [join("tools", "postgres.mjs")], {
    stdio: ["pipe", "pipe", "inherit"],
  });
  const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  const gone = new Promise((resolve) => child.once("exit", resolve));
  const ready = async () => {
    const { value, done } = await lines.next();
    if (done) throw new Error("PostgreSQL does not start");
    return value;
  };
  return {
    url: await ready(),
    async crash() {
      child.stdin.write("crash\n");
      await ready();
    },
    async remove() {
      child.stdin.end();
      await gone;
    },
  };
}
