import { spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { itInFull } from "@bumbrel/core/testing/full";
import { describe, expect, it } from "@jest/globals";
import { BrowserLost, inChromium, type Sent } from "./inChromium";

const hasChromium = existsSync("/usr/bin/chromium");
/** A page that carries out a script, and what it sends; the script is given `send(path, text)`. */
async function page(script: string, take: (path: string, sent: Sent) => Promise<void> | void = () => {}) {
  async function* html() {
    yield `<!doctype html><script type="module">
      const send = (path, body) => fetch(path, { method: "POST", body });
      ${script}
    </script>`;
  }
  await inChromium({
    answer: (path) => (path === "" ? html() : undefined),
    take,
    failure: (what) => new Error(`page: ${what}`),
  });
}

(hasChromium ? describe : describe.skip)("a page that works in a browser without a window", () => {
  itInFull("streams a result that is larger than its memory", async () => {
    let received = 0;
    await page(
      'await send("big", new Uint8Array(50_000_000)); await send("done", "");',
      async (_path, sent) => {
        received = (await sent.bytes()).length;
      },
    );
    expect(received).toBe(50_000_000);
  });

  it("reaches no file and no other port, whatever it tries", async () => {
    const folder = mkdtempSync(join(tmpdir(), "bumbrel-"));
    const secret = join(folder, "secret.txt");
    writeFileSync(secret, "secret");
    const asked: string[] = [];
    const other = createServer((request, response) => {
      asked.push(`${request.method} ${request.url}`);
      response.writeHead(200, { "Access-Control-Allow-Origin": "*" }).end("secret");
    });
    other.on("upgrade", (request, socket) => {
      asked.push(`upgrade ${request.url}`);
      socket.destroy();
    });
    await new Promise<void>((resolve) => other.listen(0, "127.0.0.1", resolve));
    const { port } = other.address() as AddressInfo;
    const outcomes: string[] = [];
    await page(
      `const addresses = ${JSON.stringify([
        pathToFileURL(secret).href,
        `http://127.0.0.1:${port}/a`,
        `http://localhost:${port}/b`,
        `http://[::1]:${port}/c`,
        "http://169.254.169.254/",
        "https://example.com/",
      ])};
      const within = (work) => Promise.race([work, new Promise((_, reject) => setTimeout(() => reject(new Error("late")), 3000))]);
      for (const address of addresses) {
        await send("tried", address + " " + (await within(fetch(address).then((r) => r.text())).catch(() => "refused")));
        await send("tried", address + " " + (await within(new Promise((resolve, reject) => {
          const image = new Image();
          image.onload = () => resolve("secret");
          image.onerror = () => reject(new Error("no"));
          image.src = address;
        })).catch(() => "refused")));
        navigator.sendBeacon(address.startsWith("file") ? "http://127.0.0.1:${port}/beacon" : address, "x");
        const frame = document.createElement("iframe");
        frame.src = address;
        document.documentElement.append(frame);
      }
      await within(new Promise((resolve, reject) => {
        const socket = new WebSocket("ws://127.0.0.1:${port}/socket");
        socket.onopen = resolve;
        socket.onerror = () => reject(new Error("no"));
      })).then(() => send("tried", "socket secret"), () => send("tried", "socket refused"));
      await send("done", "");`,
      async (_path, sent) => {
        outcomes.push((await sent.bytes()).toString("utf8"));
      },
    );
    other.close();
    rmSync(folder, { recursive: true });
    expect(outcomes).toHaveLength(13);
    expect(outcomes.filter((one) => !one.endsWith(" refused"))).toEqual([]);
    expect(asked).toEqual([]);
  });

  itInFull("is told apart, when it is lost, from work that cannot be done", async () => {
    await expect(page('await send("failed", "no encoder");')).rejects.toThrow("page: no encoder");
    await expect(page('await send("lost", "graphics");')).rejects.toBeInstanceOf(BrowserLost);
    await expect(page("throw new Error('thrown');")).rejects.toThrow("thrown");
  });

  it("leaves no process behind, whenever it is stopped", async () => {
    async function* html() {
      yield "<!doctype html>";
    }
    const drivers = () =>
      spawnSync("pgrep", ["-P", String(process.pid), "-f", "chromiumDriver"], {
        encoding: "utf8",
      }).stdout.trim();
    for (const afterMs of [0, 60, 400, 1500]) {
      const stopping = new AbortController();
      const stopped = new Error("stopped");
      setTimeout(() => stopping.abort(stopped), afterMs);
      const work = { answer: html, take: () => {}, failure: (what: string) => new Error(what) };
      await expect(inChromium({ ...work, signal: stopping.signal })).rejects.toBe(stopped);
    }
    while (drivers() !== "") await new Promise((resolve) => setTimeout(resolve, 100));
  });
});
