import { type ChildProcess, spawn } from "node:child_process";
import { cpSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

/** Data folder after a first start: an empty database and the examples. */
export const FIRST_DATA = join(import.meta.dirname, "../../test-results/first-data");

/** A Bumbrel server of a test's own, in a process of its own so that it can be killed. */
export class TestServer {
  readonly dataDir: string;
  address = "";
  private process: ChildProcess | undefined;
  private copiesFirst: boolean;
  private readonly args: readonly string[];
  private readonly env: NodeJS.ProcessEnv;
  /** Output since it was started. */
  said = "";

  /**
   * @param dataDir  where it keeps its data; a copy of {@link FIRST_DATA} unless said
   * @param args  further ones of the command line
   * @param env  further variables of its environment
   */
  constructor(dataDir?: string, args: readonly string[] = [], env: NodeJS.ProcessEnv = {}) {
    this.args = args;
    this.env = { ...process.env, ...env };
    this.dataDir = dataDir ?? mkdtempSync(join(tmpdir(), "bumbrel-e2e-"));
    this.copiesFirst = dataDir === undefined;
  }

  async start(): Promise<void> {
    if (this.copiesFirst) cpSync(FIRST_DATA, this.dataDir, { recursive: true });
    this.copiesFirst = false;
    const child = spawn(
      process.execPath,
      ["cli/bin/bumbrel.mjs", "serve", "--port", "0", "--data", this.dataDir, ...this.args],
      {
        stdio: ["ignore", "pipe", "pipe"],
        env: this.env,
      },
    );
    this.process = child;
    this.said = "";
    this.address = await new Promise<string>((resolve, reject) => {
      const read = (chunk: Buffer) => {
        this.said += chunk;
        const match = /ready at (\S+)/.exec(this.said);
        if (match) resolve(match[1]);
      };
      child.stdout?.on("data", read);
      child.stderr?.on("data", read);
      child.on("exit", (code) => reject(new Error(`the server ended with ${code}: ${this.said}`)));
    });
  }

  /** The process it runs in. */
  get pid(): number {
    return this.process!.pid!;
  }

  /** As a power cut would: no chance to finish anything. */
  kill(): Promise<void> {
    return this.end("SIGKILL");
  }

  /** As its user would. */
  stop(): Promise<void> {
    return this.end("SIGTERM");
  }

  private async end(signal: NodeJS.Signals): Promise<void> {
    const child = this.process;
    if (!child || child.exitCode !== null) return;
    const gone = new Promise((resolve) => child.once("exit", resolve));
    child.kill(signal);
    await gone;
  }

  async remove(): Promise<void> {
    await this.kill();
    rmSync(this.dataDir, { recursive: true, force: true });
  }
}
