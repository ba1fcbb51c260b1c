import { createSocket, type Socket } from "node:dgram";
import { isIP } from "node:net";
import { BumbrelError } from "@bumbrel/core/errors";
import type { Cue } from "@bumbrel/core/sound/cue";
import { toBuffer } from "osc-min";
import type { FedStrand, Receiver } from "./feed";

/** A packet is no larger, so that networks do not cut it. */
const MOST_BYTES = 1400;
/** Bytes of a bundle's head, and of a message beside its address and numbers. */
const BUNDLE_BYTES = 16;
const MESSAGE_BYTES = 12;

/** True if an address is this machine's own: in figures, or by the name that every system has for it. */
export const isOwnAddress = (host: string): boolean =>
  host === "localhost" || host === "::1" || (isIP(host) === 4 && host.startsWith("127."));

/**
 * Target of OSC: `host:port`.
 *
 * @param allowed  hosts beside this machine that may be sent to
 * @throws BumbrelError for anything else
 */
export function oscTarget(text: string, allowed: readonly string[]): { host: string; port: number } {
  const [, host, written] = /^\[?([^[\]]+?)\]?:(\d{1,5})$/.exec(text.trim()) ?? [];
  const port = Number(written);
  if (host === undefined || port < 1 || port > 65_535) {
    throw new BumbrelError({
      code: "osc-address",
      what: "this is no address to send to",
      where: `"${text}"`,
      remedy: "Write HOST:PORT, such as 127.0.0.1:9000",
    });
  }
  if (!isOwnAddress(host) && !allowed.includes(host)) {
    throw new BumbrelError({
      code: "osc-not-allowed",
      what: "it is another machine, and Bumbrel was not allowed to send there",
      where: `"${text}"`,
      remedy: `Start it with --feed-to ${host}`,
    });
  }
  return { host, port };
}

/**
 * Sends a feed as OSC 1.0 over UDP: a bundle a frame with `/bumbrel/strand/NAME` and its numbers as floats, and
 * `/bumbrel/cue/NAME` with the strength at each cue.
 */
export class OscReceiver implements Receiver {
  readonly name: string;
  sent = 0;
  dropped = 0;
  last = "";
  private readonly socket: Socket;
  private readonly host: string;
  private readonly port: number;

  constructor({ host, port }: { host: string; port: number }) {
    this.name = `${host.includes(":") ? `[${host}]` : host}:${port}`;
    this.host = host;
    this.port = port;
    this.socket = createSocket(host.includes(":") ? "udp6" : "udp4");
    // Nobody listens there: that is theirs to mend.
    this.socket.on("error", () => this.dropped++);
    this.socket.unref();
  }

  frame(_timeS: number, numbers: Float32Array, strands: readonly FedStrand[]): void {
    let messages: { address: string; args: { type: "float"; value: number }[] }[] = [];
    let size = BUNDLE_BYTES;
    const flush = () => {
      if (messages.length === 0) return;
      this.send(toBuffer({ timetag: NOW, elements: messages }), messages.length);
      messages = [];
      size = BUNDLE_BYTES;
    };
    let at = 0;
    for (const { slug, width } of strands) {
      const address = `/bumbrel/strand/${slug}`;
      const bytes = MESSAGE_BYTES + address.length + 5 * width;
      if (size + bytes > MOST_BYTES) flush();
      const args = Array.from({ length: width }, (_none, i) => ({
        type: "float" as const,
        value: numbers[at + i],
      }));
      messages.push({ address, args });
      size += bytes;
      at += width;
    }
    flush();
    const [first] = strands;
    if (first) this.last = `/bumbrel/strand/${first.slug} ${numbers[0].toFixed(4)}`;
  }

  cue({ slug }: FedStrand, { strength }: Cue): void {
    const address = `/bumbrel/cue/${slug}`;
    this.send(toBuffer({ address, args: [{ type: "float", value: strength }] }), 1);
    this.last = `${address} ${strength.toFixed(3)}`;
  }

  private send(packet: DataView, messages: number): void {
    this.socket.send(
      new Uint8Array(packet.buffer, packet.byteOffset, packet.byteLength),
      this.port,
      this.host,
      (error) => {
        if (error) this.dropped += messages;
      },
    );
    this.sent += messages;
  }

  close(): void {
    this.socket.close();
  }
}

/** The time tag that means at once. */
const NOW: [number, number] = [0, 1];
