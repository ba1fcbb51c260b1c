import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

/** A Bumbrel server of a test's own, in a process of its own so that it can be killed. */
export class TestServer {
  readonly dataDir: string;
  address = "";
  private process: ChildProcess | undefined;

  constructor() {
    this.dataDir = mkdtempSync(join(tmpdir(), "bumbrel-e2e-"));
  }

  async start(): Promise<void> {
    const child = spawn(
      process.execPath,
      ["server/bin/bumbrel.mjs", "serve", "--port", "0", "--data", this.dataDir],
      {
        stdio: ["ignore", "pipe", "pipe"],
      },
    );
    this.process = child;
    let said = "";
    this.address = await new Promise<string>((resolve, reject) => {
      const read = (chunk: Buffer) => {
        said += chunk;
        const match = /ready at (\S+)/.exec(said);
        if (match) resolve(match[1]);
      };
      child.stdout?.on("data", read);
      child.stderr?.on("data", read);
      child.on("exit", (code) => reject(new Error(`the server ended with ${code}: ${said}`)));
    });
  }

  /** The process it runs in. */
  get pid(): number {
    return this.process!.pid!;
  }

  /** As a power cut would: no chance to finish anything. */
  async kill(): Promise<void> {
    const child = this.process;
    if (!child || child.exitCode !== null) return;
    const gone = new Promise((resolve) => child.once("exit", resolve));
    child.kill("SIGKILL");
    await gone;
  }

  async remove(): Promise<void> {
    await this.kill();
    rmSync(this.dataDir, { recursive: true, force: true });
  }
}
