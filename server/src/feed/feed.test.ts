import { createSocket } from "node:dgram";
import { once } from "node:events";
import { get } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, describe, expect, it } from "@jest/globals";
import { fromBuffer } from "osc-min";
import { WebSocket } from "ws";
import { Access, newToken } from "../door/access";
import { Door, type DoorSettings } from "../door/door";
import { breakConnections } from "../testing/brokenConnections";
import { Feed, fedStrands, JoinedSource, type Receiver, ToldSource, TrackSource } from "./feed";
import { FeedServer } from "./feedServer";
import { OscReceiver, oscTarget } from "./oscReceiver";

const ramp = Float32Array.from({ length: 300 }, (_none, frame) => frame / 300);
const cues = Array.from({ length: 12 }, (_none, i) => ({ timeS: 0.2 + i * 0.2, strength: 0.5 }));
const source = () =>
  new TrackSource([
    { id: "a", name: "Glow", track: { width: 1, values: ramp, loopS: 0, cues } },
    {
      id: "b",
      name: "Row of lamps",
      track: { width: 2, values: Float32Array.from({ length: 600 }, (_none, i) => (i % 2 ? 1 : 0)) },
    },
  ]);

/** Keeps what it is given, with the times. */
class Kept implements Receiver {
  name = "kept";
  sent = 0;
  dropped = 0;
  last = "";
  frames: { timeS: number; numbers: number[] }[] = [];
  cues: { name: string; timeS: number }[] = [];
  frame(timeS: number, numbers: Float32Array) {
    this.frames.push({ timeS, numbers: [...numbers] });
  }
  cue({ name }: { name: string }, { timeS }: { timeS: number }) {
    this.cues.push({ name, timeS });
  }
  close() {}
}

const closing: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0)) await close();
});

/** A feed by a clock of its own. */
function clocked() {
  let nowMs = 0;
  const feed = new Feed(source(), () => nowMs);
  const kept = new Kept();
  feed.receivers.add(kept);
  closing.push(() => feed.close());
  const pass = (ms: number) => {
    for (const end = nowMs + ms; nowMs < end; ) {
      nowMs = Math.min(end, nowMs + 3.7);
      feed.look();
    }
  };
  return { feed, kept, pass };
}

describe("a feed", () => {
  it("gives each frame of the time that passes once, and each cue", () => {
    const { feed, kept, pass } = clocked();
    feed.setClock(true, 0);
    pass(1000);
    expect(kept.frames.map(({ timeS }) => Math.round(timeS * 100))).toEqual(
      Array.from({ length: 101 }, (_none, i) => i),
    );
    for (const { timeS, numbers } of kept.frames) expect(numbers[0]).toBeCloseTo(timeS / 3, 5);
    expect(kept.cues.map(({ timeS }) => timeS)).toEqual(cues.slice(0, 5).map(({ timeS }) => timeS));
  });

  it("gives nothing while the tape stands, and goes on from where it is moved to", () => {
    const { feed, kept, pass } = clocked();
    pass(500);
    expect(kept.frames).toEqual([]);
    feed.setClock(true, 2);
    pass(100);
    feed.setClock(false, 2.1);
    pass(500);
    expect(kept.frames[0].timeS).toBe(2);
    expect(kept.frames).toHaveLength(11);
    expect(kept.cues.map(({ timeS }) => Number(timeS.toFixed(2)))).toEqual([]);
  });

  it("makes up for a clock that drifts without a frame more or less", () => {
    const { feed, kept, pass } = clocked();
    feed.setClock(true, 0);
    for (let i = 1; i <= 10; i++) {
      pass(100);
      feed.setClock(true, i * 0.1004);
    }
    const frames = kept.frames.map(({ timeS }) => Math.round(timeS * 100));
    expect(frames).toEqual(Array.from({ length: frames.length }, (_none, i) => i));
    expect(Math.abs(frames.length - 101)).toBeLessThanOrEqual(1);
  });

  it("leaves frames out that are late, instead of sending them all at once", () => {
    let nowMs = 0;
    const feed = new Feed(source(), () => nowMs);
    const kept = new Kept();
    feed.receivers.add(kept);
    feed.setClock(true, 0);
    nowMs = 1500;
    feed.look();
    expect(kept.frames.length).toBeLessThanOrEqual(26);
    expect(kept.frames.at(-1)!.timeS).toBe(1.5);
    feed.close();
  });

  it("joins known and reported strands, under distinct names", () => {
    const told = new ToldSource([{ id: "mic", name: "Glow", width: 2 }]);
    const joined = new JoinedSource([source(), told]);
    expect(joined.strands.map(({ slug }) => slug)).toEqual(["glow", "row-of-lamps", "glow-2"]);
    told.tell("mic", [0.25, Number.NaN]);
    const out = new Float32Array(5);
    joined.read(1.5, out);
    expect([...out]).toEqual([0.5, 0, 1, 0.25, 0]);
    told.tellCue("mic", 0.75);
    const found: [string, number][] = [];
    joined.eachCue(0.15, 0.25, ({ slug }, { strength }) => found.push([slug, strength]));
    expect(found).toEqual([
      ["glow", 0.5],
      ["glow-2", 0.75],
    ]);
  });

  it("names strands for addresses", () => {
    const named = fedStrands([
      { id: "1", name: "Glühen", width: 1 },
      { id: "2", name: "提灯", width: 1 },
      { id: "3", name: "glühen!", width: 1 },
    ]);
    expect(named.map(({ slug }) => slug)).toEqual(["gluhen", "strand", "gluhen-2"]);
  });
});

describe("OSC", () => {
  it("comes 100 times a second for each strand, with cues on time; nobody listening harms nothing", async () => {
    const socket = createSocket("udp4");
    socket.bind(0, "127.0.0.1");
    await once(socket, "listening");
    closing.push(() => socket.close());
    const feed = new Feed(source());
    closing.push(() => feed.close());
    const heard: { address: string; atMs: number; args: number[] }[] = [];
    let beganMs = 0;
    socket.on("message", (packet) => {
      const atMs = performance.now() - beganMs;
      const read = fromBuffer(packet);
      for (const one of read.oscType === "bundle" ? read.elements : [read]) {
        if (one.oscType !== "message") throw new Error("a bundle in a bundle");
        heard.push({ address: one.address, atMs, args: one.args.map(({ value }) => value as number) });
      }
    });
    const dead = new OscReceiver(oscTarget("127.0.0.1:9", []));
    feed.receivers.add(dead);
    feed.receivers.add(new OscReceiver(oscTarget(`127.0.0.1:${(socket.address() as AddressInfo).port}`, [])));
    beganMs = performance.now();
    feed.setClock(true, 0);
    await new Promise((resolve) => setTimeout(resolve, 2005));
    feed.setClock(false, 2);
    await new Promise((resolve) => setTimeout(resolve, 50));
    const glow = heard.filter(({ address }) => address === "/bumbrel/strand/glow");
    const row = heard.filter(({ address }) => address === "/bumbrel/strand/row-of-lamps");
    for (const messages of [glow, row]) expect(Math.abs(messages.length / 2 - 100)).toBeLessThanOrEqual(2);
    expect(row.every(({ args }) => args[0] === 0 && args[1] === 1)).toBe(true);
    const struck = heard.filter(({ address }) => address === "/bumbrel/cue/glow");
    expect(struck).toHaveLength(10);
    // On a machine that is busy with other tests one may be late; most are not.
    const lateMs = struck.map(({ atMs }, i) => atMs - cues[i].timeS * 1000).sort((a, b) => a - b);
    expect(lateMs[7]).toBeLessThan(10);
    expect(lateMs[0]).toBeGreaterThan(-2);
    expect(dead.sent).toBeGreaterThan(300);
  });

  it("goes to this machine, and elsewhere only where that was allowed", () => {
    expect(oscTarget("localhost:9000", [])).toEqual({ host: "localhost", port: 9000 });
    expect(oscTarget("[::1]:9000", [])).toEqual({ host: "::1", port: 9000 });
    expect(oscTarget("10.0.0.7:9000", ["10.0.0.7"])).toEqual({ host: "10.0.0.7", port: 9000 });
    expect(() => oscTarget("10.0.0.7:9000", [])).toThrow(/--feed-to 10\.0\.0\.7/);
    // A name that only looks like an address of this machine is looked up elsewhere.
    expect(() => oscTarget("127.0.0.999:9000", [])).toThrow(/--feed-to/);
    expect(oscTarget("lamps.example:9000", ["lamps.example"])).toMatchObject({ host: "lamps.example" });
    for (const text of ["", "9000", "host", "host:0", "host:99999", "a b:"])
      expect(() => oscTarget(text, [])).toThrow(/HOST:PORT/);
  });

  it("cuts a wide fan into packets that networks carry whole", async () => {
    const sizes: number[] = [];
    const socket = createSocket("udp4");
    socket.bind(0, "127.0.0.1");
    await once(socket, "listening");
    closing.push(() => socket.close());
    socket.on("message", ({ length }) => sizes.push(length));
    const receiver = new OscReceiver({ host: "127.0.0.1", port: (socket.address() as AddressInfo).port });
    const strands = fedStrands(
      Array.from({ length: 100 }, (_none, i) => ({ id: `${i}`, name: `Strand ${i}`, width: 4 })),
    );
    receiver.frame(0, new Float32Array(400), strands);
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(sizes.length).toBeGreaterThan(3);
    expect(Math.max(...sizes)).toBeLessThanOrEqual(1400);
    receiver.close();
  });
});

/** A feed's port of its own; gives its address. */
async function serving(feed: Feed, settings: Partial<DoorSettings> = {}): Promise<string> {
  const door = new Door({ host: "127.0.0.1", pages: "of-this-machine", ...settings });
  const server = new FeedServer(feed, door);
  closing.push(async () => {
    feed.close();
    await server.close();
  });
  return server.listen(0);
}
const socketAt = (address: string, headers: Record<string, string> = {}) =>
  new WebSocket(`${address.replace("http", "ws")}/socket`, { headers });
/** State of a socket: open, or the status it is refused with. */
const outcome = (socket: WebSocket) =>
  new Promise<number | "open">((resolve) => {
    socket.on("open", () => resolve("open"));
    socket.on("unexpected-response", (_request, response) => resolve(response.statusCode!));
    socket.on("error", () => {});
  });
const ask = (address: string, headers: Record<string, string>) =>
  new Promise<{ status: number; allowed: string | undefined }>((resolve, reject) => {
    get(address, { headers }, (response) => {
      response.resume();
      resolve({ status: response.statusCode!, allowed: response.headers["access-control-allow-origin"] });
    }).on("error", reject);
  });

describe("the port of a live feed", () => {
  it("refuses other names and pages from elsewhere; programs and pages of this machine need nothing", async () => {
    const address = await serving(new Feed(source()));
    const list = `${address}/list`;
    expect((await ask(list, {})).status).toBe(200);
    expect((await ask(list, { Host: "evil.example" })).status).toBe(403);
    for (const origin of ["https://evil.example", "null", "garbage"])
      expect(await ask(list, { Origin: origin })).toEqual({ status: 403, allowed: undefined });
    const own = "http://localhost:5173";
    expect(await ask(list, { Origin: own })).toEqual({ status: 200, allowed: own });
    expect(await outcome(socketAt(address, { Origin: "https://evil.example" }))).toBe(403);
    expect(await outcome(socketAt(address, { Host: "evil.example" }))).toBe(403);
    expect(await outcome(socketAt(address, { Origin: own }))).toBe("open");
    expect(await outcome(socketAt(address))).toBe("open");
  });

  it("lets pages in that it was started with, and asks for the token where others are let through", async () => {
    const token = newToken();
    const access = new Access(token);
    closing.push(() => access.close());
    const address = await serving(new Feed(source()), { access, allowOrigins: ["https://game.example"] });
    const list = `${address}/list`;
    expect((await ask(list, { Origin: "https://game.example" })).status).toBe(200);
    expect((await ask(list, {})).status).toBe(200);
    // Passed on by a proxy it comes from somewhere else.
    const far = { "X-Forwarded-For": "203.0.113.9" };
    expect((await ask(list, far)).status).toBe(401);
    expect((await ask(`${list}?token=guess`, far)).status).toBe(401);
    expect((await ask(`${list}?token=${token.shown}`, far)).status).toBe(200);
    expect((await ask(list, { ...far, Authorization: `Bearer ${token.shown}` })).status).toBe(200);
    expect(await outcome(socketAt(address, far))).toBe(401);
  });

  it("outlives whatever connections say and how they end, and feeds no more than 32", async () => {
    const feed = new Feed(source());
    const address = await serving(feed);
    await breakConnections(Number(new URL(address).port), 126);
    expect((await ask(`${address}/list`, {})).status).toBe(200);
    for (let i = 0; feed.receivers.size > 0 && i < 200; i++)
      await new Promise((resolve) => setTimeout(resolve, 10));
    expect(feed.receivers.size).toBe(0);
    const sockets = Array.from({ length: 33 }, () => socketAt(address));
    const outcomes = await Promise.all(sockets.map(outcome));
    expect(outcomes.filter((one) => one === "open")).toHaveLength(32);
    expect(outcomes.filter((one) => one === 503)).toHaveLength(1);
  });

  it("ends a connection that sends it more than a few thousand bytes", async () => {
    const address = await serving(new Feed(source()));
    const socket = socketAt(address);
    await once(socket, "open");
    const closed = once(socket, "close");
    socket.send(Buffer.alloc(100_000));
    expect((await closed)[0]).toBe(1009);
  });

  it("keeps no more cues than somebody could take", () => {
    const told = new ToldSource([{ id: "a", name: "A", width: 1 }]);
    for (let i = 0; i < 10_000; i++) told.tellCue("a", i);
    const taken: number[] = [];
    told.eachCue(0, 1, (_strand, { strength }) => taken.push(strength));
    expect(taken).toHaveLength(256);
    expect(taken.at(-1)).toBe(9999);
  });
});

describe("programs that connect", () => {
  it("are told the strands first, then frames and cues, as text or as bytes or as events", async () => {
    const feed = new Feed(source());
    const address = await serving(feed);
    const text = new WebSocket(`${address.replace("http", "ws")}/socket`);
    const bytes = new WebSocket(`${address.replace("http", "ws")}/socket?format=binary`);
    const [texts, packets]: [string[], Buffer[]] = [[], []];
    text.on("message", (data) => texts.push(String(data)));
    bytes.on("message", (data, isBinary) => isBinary && packets.push(data as Buffer));
    const opened = Promise.all([once(text, "open"), once(bytes, "open")]);
    const events = await fetch(`${address}/events`);
    const reader = events.body!.getReader();
    await opened;
    feed.setClock(true, 0.1);
    await new Promise((resolve) => setTimeout(resolve, 400));
    feed.setClock(false, 0.5);
    let written = "";
    while (!written.includes("event: cue")) written += new TextDecoder().decode((await reader.read()).value);
    expect(JSON.parse(texts[0]).list.map(({ slug }: { slug: string }) => slug)).toEqual([
      "glow",
      "row-of-lamps",
    ]);
    const frame = JSON.parse(texts.find((one) => one.includes("strands"))!);
    expect(frame.strands["Row of lamps"]).toEqual([0, 1]);
    expect(frame.strands.Glow).toBeCloseTo(frame.timeS / 3, 3);
    expect(texts.map((one) => JSON.parse(one)).filter(({ cue }) => cue === "Glow").length).toBeGreaterThan(0);
    const packet = packets[0];
    expect(packet.length).toBe(8 + 3 * 4);
    expect(packet.readFloatLE(8)).toBeCloseTo(packet.readDoubleLE(0) / 3, 5);
    expect([packet.readFloatLE(12), packet.readFloatLE(16)]).toEqual([0, 1]);
    expect(written).toMatch(/^event: list\ndata: \{"list"/);
    expect(written).toMatch(/event: frame\ndata: \{"timeS"/);
    expect((await fetch(`${address}/elsewhere`)).status).toBe(404);
    expect(feed.receivers.size).toBe(3);
    text.close();
    await reader.cancel();
    for (let i = 0; feed.receivers.size > 1 && i < 100; i++)
      await new Promise((resolve) => setTimeout(resolve, 10));
    expect(feed.receivers.size).toBe(1);
  });
});
