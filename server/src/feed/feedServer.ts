import type { IncomingMessage, Server, ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import type { Duplex } from "node:stream";
import type { Cue } from "@bumbrel/core/sound/cue";
import { type WebSocket, WebSocketServer } from "ws";
import type { Door } from "../door/door";
import { addressOf, guardedServer } from "../door/guardedServer";
import { HttpProblem } from "../problem/problem";
import type { FedStrand, Feed, Receiver } from "./feed";

/** Bytes that may wait for a slow receiver; beyond them frames are left out. */
const MOST_WAITING = 64 * 1024;
/** Programs and pages that are fed at once, and connections beside theirs that ask for the list and the like. */
const MOST_RECEIVERS = 32;
const MOST_CONNECTIONS = 64;
/** Nobody has anything to say to a feed; larger messages end their connection. */
const MOST_MESSAGE_BYTES = 4096;

/** Messages for a frame and for a cue, as text. */
function frameText(timeS: number, numbers: Float32Array, strands: readonly FedStrand[]): string {
  let at = 0;
  const named = strands.map(({ name, width }) => {
    const own = Array.from(numbers.subarray(at, at + width), (value) => Number(value.toPrecision(6)));
    at += width;
    return [name, width === 1 ? own[0] : own] as const;
  });
  return JSON.stringify({ timeS: Number(timeS.toFixed(2)), strands: Object.fromEntries(named) });
}
const cueText = ({ name }: FedStrand, { timeS, strength }: Cue) =>
  JSON.stringify({ cue: name, timeS: Number(timeS.toFixed(4)), strength: Number(strength.toPrecision(6)) });
const listText = (strands: readonly FedStrand[]) =>
  JSON.stringify({ list: strands.map(({ id, name, slug, width }) => ({ id, name, slug, width })) });

/** A program or page that is connected; what it cannot take in time is left out and counted. */
abstract class Connected implements Receiver {
  readonly name: string;
  sent = 0;
  dropped = 0;
  last = "";

  constructor(name: string) {
    this.name = name;
  }

  protected abstract get waiting(): number;
  protected abstract put(data: string | Uint8Array): void;
  abstract close(): void;

  /** Sends it, unless too much is waiting already. */
  protected give(data: string | Uint8Array): void {
    if (this.waiting > MOST_WAITING) {
      this.dropped++;
      return;
    }
    this.put(data);
    this.sent++;
  }

  frame(timeS: number, numbers: Float32Array, strands: readonly FedStrand[]): void {
    const text = frameText(timeS, numbers, strands);
    this.last = text;
    this.give(text);
  }

  cue(strand: FedStrand, cue: Cue): void {
    const text = cueText(strand, cue);
    this.last = text;
    this.give(text);
  }

  strandsChanged(strands: readonly FedStrand[]): void {
    // Without the newest list it would misread every frame; one that takes nothing is let go.
    if (this.waiting > MOST_WAITING) this.close();
    else this.put(listText(strands));
  }
}

const nameOf = (kind: string, { socket }: IncomingMessage) =>
  `${kind}, ${socket.remoteAddress}:${socket.remotePort}`;

class SocketReceiver extends Connected {
  private readonly socket: WebSocket;
  private readonly isBinary: boolean;

  constructor(name: string, socket: WebSocket, isBinary: boolean) {
    super(name);
    this.socket = socket;
    this.isBinary = isBinary;
  }

  protected get waiting(): number {
    return this.socket.bufferedAmount;
  }

  protected put(data: string | Uint8Array): void {
    this.socket.send(data);
  }

  override frame(timeS: number, numbers: Float32Array, strands: readonly FedStrand[]): void {
    if (!this.isBinary) {
      super.frame(timeS, numbers, strands);
      return;
    }
    const bytes = new Uint8Array(8 + 4 * numbers.length);
    const view = new DataView(bytes.buffer);
    view.setFloat64(0, timeS, true);
    for (let i = 0; i < numbers.length; i++) view.setFloat32(8 + 4 * i, numbers[i], true);
    this.last = `${bytes.length} bytes at ${timeS.toFixed(2)} s`;
    this.give(bytes);
  }

  close(): void {
    this.socket.close();
  }
}

class EventsReceiver extends Connected {
  private readonly response: ServerResponse;

  constructor(name: string, response: ServerResponse) {
    super(name);
    this.response = response;
  }

  protected get waiting(): number {
    return this.response.writableLength;
  }

  protected put(data: string): void {
    const kind = /^\{"(cue|list)"/.exec(data)?.[1] ?? "frame";
    this.response.write(`event: ${kind}\ndata: ${data}\n\n`);
  }

  close(): void {
    this.response.end();
  }
}

const HELP = `Bumbrel's live feed.

GET  /events               server-sent events: list, frame, cue
WS   /socket               text messages: {"list": …}, {"timeS": …, "strands": {…}}, {"cue": …}
WS   /socket?format=binary a frame as binary: float64 seconds, then all numbers as float32, little-endian, in the order of the list
GET  /list                 the strands, as JSON
`;

/** Feeds programs and pages that connect: WebSocket and server-sent events on a port of its own. */
export class FeedServer {
  private readonly feed: Feed;
  private readonly door: Door;
  private readonly server: Server;
  private readonly sockets = new WebSocketServer({ noServer: true, maxPayload: MOST_MESSAGE_BYTES });
  private connected = 0;

  constructor(feed: Feed, door: Door) {
    this.feed = feed;
    this.door = door;
    this.server = guardedServer({
      door,
      mostConnections: MOST_CONNECTIONS,
      answer: (request, response) => this.answer(request, response),
      upgrade: (request, socket, head) => this.upgrade(request, socket, head),
    });
  }

  private async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { pathname, searchParams } = addressOf(request);
    const origin = this.door.readableBy(request);
    if (origin !== undefined) {
      response.setHeader("Access-Control-Allow-Origin", origin);
      response.setHeader("Vary", "Origin");
    }
    await this.door.requireToken(request, searchParams.get("token"));
    if (pathname === "/events") {
      this.assertRoom();
      response.writeHead(200, { "Content-Type": "text/event-stream", "Cache-Control": "no-store" });
      this.admit(new EventsReceiver(nameOf("events", request), response), (gone) =>
        response.on("close", gone),
      );
    } else if (pathname === "/list") {
      response.writeHead(200, { "Content-Type": "application/json" }).end(listText(this.feed.strands));
    } else response.writeHead(pathname === "/" ? 200 : 404, { "Content-Type": "text/plain" }).end(HELP);
  }

  private async upgrade(request: IncomingMessage, socket: Duplex, head: Buffer): Promise<void> {
    const { pathname, searchParams } = addressOf(request);
    if (pathname !== "/socket")
      throw new HttpProblem(404, "not-found", "A live feed is at /socket and at /events.");
    await this.door.requireToken(request, searchParams.get("token"));
    this.assertRoom();
    this.sockets.handleUpgrade(request, socket, head, (webSocket) => {
      const isBinary = searchParams.get("format") === "binary";
      webSocket.on("error", () => webSocket.terminate());
      this.admit(new SocketReceiver(nameOf("socket", request), webSocket, isBinary), (gone) =>
        webSocket.on("close", gone),
      );
    });
  }

  private assertRoom(): void {
    if (this.connected < MOST_RECEIVERS) return;
    throw new HttpProblem(
      503,
      "feed-full",
      `${MOST_RECEIVERS} programs are fed already, and no more can be. Close one of them.`,
    );
  }

  private admit(receiver: Connected, onGone: (gone: () => void) => void): void {
    this.connected++;
    receiver.strandsChanged(this.feed.strands);
    this.feed.receivers.add(receiver);
    onGone(() => {
      this.connected--;
      this.feed.receivers.delete(receiver);
    });
  }

  /**
   * Begins to listen.
   *
   * @param port  0 takes any that is free
   * @returns its address
   * @throws the system's error when it cannot listen there
   */
  async listen(port: number, host = "127.0.0.1"): Promise<string> {
    await new Promise<void>((resolve, reject) => {
      this.server.once("error", reject);
      this.server.listen(port, host, () => resolve());
    });
    const { port: taken } = this.server.address() as AddressInfo;
    return `http://${host.includes(":") ? `[${host}]` : host}:${taken}`;
  }

  async close(): Promise<void> {
    for (const socket of this.sockets.clients) socket.terminate();
    const closed = new Promise((resolve) => this.server.close(resolve));
    this.server.closeAllConnections();
    await closed;
  }
}
