import { LiveFeed } from "@bumbrel/core/analyse/liveFeed";
import { planNumbers } from "@bumbrel/core/analyse/numbersPlan";
import { runnableScene } from "@bumbrel/core/document/programsAllowed";
import type { Scene } from "@bumbrel/core/document/scene";
import type { Stores } from "@bumbrel/server/archive/stores";
import { pageParts } from "@bumbrel/server/deliver/pageParts";
import { projectNumbers } from "@bumbrel/server/deliver/projectNumbers";
import { Access, newToken } from "@bumbrel/server/door/access";
import { Door, isLoopback } from "@bumbrel/server/door/door";
import { Feed, ToldSource, TrackSource } from "@bumbrel/server/feed/feed";
import { FeedServer } from "@bumbrel/server/feed/feedServer";
import { OscReceiver, oscTarget } from "@bumbrel/server/feed/oscReceiver";
import { ROOT } from "../data";
import {
  archiveUnlessNamed,
  type OpenedProject,
  PROJECT_FLAGS,
  RUN_HELP,
  withProject,
} from "../projects/stores";
import { type Command, type Console, numberFlag, parsed, UsageError } from "../support/command";

/** How often it looks where the tape is, ms. */
const LOOK_MS = 50;

export const listen: Command = {
  help: `bumbrel listen ARCHIVE.zip [options]
bumbrel listen --project PROJECT [options]
bumbrel listen --example NAME [options]

Plays the tape without a sound and feeds all strands and cues, 100 times a second, as the Deliver view's live feed does:
OSC 1.0 over UDP, WebSocket and server-sent events. It stops at the end of the tape, or with Ctrl+C.

  --osc HOST:PORT  sends OSC there; may be given several times
  --feed-to HOST   another machine that OSC may be sent to; may be given several times
  --port PORT      where programs connect for WebSocket and events: 4281 unless said, 0 takes any that is free
  --host HOST      the address it listens on: 127.0.0.1 unless said
                   On another address programs on other machines show a token, which is printed at the start
  --allow-host NAME    another name it is reached by; may be given several times
  --allow-origin ORIGIN  pages from elsewhere that may read it, such as https://game.example
  --from S         second of the tape that it begins at
  --loop           begins again at the end
  --input          hears standard input instead of the tape: mono, 16-bit little-endian, 48 000 samples a second
${RUN_HELP}
OSC messages: /bumbrel/strand/NAME with a float a band, /bumbrel/cue/NAME with the strength.

Example: bumbrel listen regatta.zip --osc 127.0.0.1:9000 --loop
         arecord -f S16_LE -r 48000 -c 1 -t raw | bumbrel listen regatta.zip --input --osc 127.0.0.1:9000
`,
  async run(args, console) {
    const { values, positionals } = parsed(
      args,
      {
        ...PROJECT_FLAGS,
        osc: { type: "string", multiple: true },
        "feed-to": { type: "string", multiple: true },
        port: { type: "string" },
        host: { type: "string" },
        "allow-host": { type: "string", multiple: true },
        "allow-origin": { type: "string", multiple: true },
        from: { type: "string" },
        loop: { type: "boolean" },
        input: { type: "boolean" },
      },
      archiveUnlessNamed(args),
    );
    const targets = (values.osc ?? []).map((text) => oscTarget(text, values["feed-to"] ?? []));
    const port = numberFlag("port", values.port ?? "4281", 0, 65_535);
    const fromS = numberFlag("from", values.from ?? "0", 0, 6 * 3600);
    const prepare = (project: OpenedProject) => {
      const scene = runnableScene(project);
      return values.input
        ? Promise.resolve(fromInput(scene))
        : fromTape(scene, project.stores, fromS, values.loop ?? false);
    };
    // Projects are closed again before it plays: their database would take memory for as long as it does.
    const play = await withProject(values, positionals[0], console, prepare);
    for (const target of targets) play.feed.receivers.add(new OscReceiver(target));
    const host = values.host ?? "127.0.0.1";
    const token = isLoopback(host) ? undefined : newToken();
    const door = new Door({
      host,
      allowHosts: values["allow-host"],
      allowOrigins: values["allow-origin"],
      pages: "of-this-machine",
      access: token && new Access(token),
    });
    const server = new FeedServer(play.feed, door);
    const address = await server.listen(port, host).catch((error: NodeJS.ErrnoException) => {
      throw new UsageError(`--port ${port}: cannot be listened on (${error.code}); give another, or 0`);
    });
    tell(console, play.feed, address);
    if (token)
      console.out(
        `Programs on other machines show this token, as ?token= or as Bearer:\n\n  ${token.shown}\n\n`,
      );
    const stop = new AbortController();
    try {
      await Promise.race([play.run(stop.signal), stopped()]);
    } finally {
      stop.abort();
      const sent = [...play.feed.receivers].map(
        (one) => `${one.name}: ${one.sent} messages, ${one.dropped} lost`,
      );
      play.feed.close();
      await server.close();
      for (const line of sent) console.out(`${line}\n`);
    }
    return 0 as const;
  },
};

function tell(console: Console, { strands, receivers }: Feed, address: string): void {
  const osc = [...receivers].map(({ name }) => name).join(", ");
  console.out(`Feeding ${strands.map(({ name }) => name).join(", ")}${osc && ` to ${osc}`}\n`);
  console.out(`Programs connect at ${address}/events and ${address.replace("http", "ws")}/socket\n`);
}

/** Resolves when it is asked to stop. */
const stopped = () =>
  new Promise<void>((stop) => {
    for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stop());
  });

interface Play {
  feed: Feed;
  /** Plays until there is no more, or it is stopped. */
  run(stop: AbortSignal): Promise<void>;
}

async function fromTape(scene: Scene, { sounds }: Stores, fromS: number, loops: boolean): Promise<Play> {
  const { strands, lengthS } = await projectNumbers(scene, scene.strands, sounds, await pageParts(ROOT));
  if (strands.length === 0)
    throw new UsageError("no strand of this project has numbers; with --input they hear standard input");
  if (fromS >= lengthS) throw new UsageError(`--from ${fromS}: the tape is ${lengthS.toFixed(1)} s long`);
  const feed = new Feed(
    new TrackSource(strands.map(({ strand: { id, name }, track }) => ({ id, name, track }))),
  );
  const run = async (stop: AbortSignal) => {
    do {
      feed.setClock(true, fromS);
      while (feed.timeS < lengthS && !stop.aborted)
        await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
      if (stop.aborted) return;
      feed.setClock(false, fromS);
    } while (loops);
  };
  return { feed, run };
}

function fromInput(scene: Scene): Play {
  const plan = planNumbers(scene, scene.strands);
  const heard = new LiveFeed({ strands: plan.strands.filter(({ code }) => code === undefined) });
  const told = new ToldSource(heard.strands);
  heard.onCue(({ id }, strength) => told.tellCue(id, strength));
  const feed = new Feed(told);
  const run = async (stop: AbortSignal) => {
    // The program that writes to standard input may never close it.
    stop.addEventListener("abort", () => process.stdin.destroy());
    feed.setClock(true, 0);
    let rest = Buffer.alloc(0);
    for await (const piece of process.stdin as AsyncIterable<Buffer>) {
      const bytes = Buffer.concat([rest, piece]);
      const count = bytes.length >> 1;
      const block = Float32Array.from({ length: count }, (_none, i) => bytes.readInt16LE(2 * i) / 32_768);
      rest = bytes.subarray(2 * count);
      heard.feed(block);
      for (const strand of heard.strands)
        told.tell(
          strand.id,
          Array.from({ length: strand.width }, (_none, band) => strand.now(band)),
        );
    }
  };
  return { feed, run };
}
