import type { FeedClock, FeedState, FeedWish } from "@bumbrel/api/contracts";
import type { Scene } from "@bumbrel/core/document/scene";
import type { PageParts } from "../deliver/pageCode";
import { projectNumbers } from "../deliver/projectNumbers";
import type { Access } from "../door/access";
import { Door } from "../door/door";
import type { SoundStore } from "../store/sounds";
import { Feed, JoinedSource, type Receiver, ToldSource, TrackSource } from "./feed";
import { FeedServer } from "./feedServer";
import { OscReceiver, oscTarget } from "./oscReceiver";

export interface FeedRoomSettings {
  /** Port that programs and pages connect to; another one where it is taken. */
  port: number;
  /** Address it listens on. */
  host: string;
  /** Hosts beside this machine that OSC may be sent to. */
  allowed: readonly string[];
  /** Further names that the feed is reached by, and origins whose pages may read it. */
  allowHosts?: readonly string[] | undefined;
  allowOrigins?: readonly string[] | undefined;
}

/** How often rates are told anew, ms. */
const RATE_MS = 1000;

interface Running {
  projectId: string;
  feed: Feed;
  server: FeedServer;
  address: string;
  told: ToldSource;
  osc: Map<string, OscReceiver>;
  rates: Map<Receiver, { sent: number; rate: number }>;
  timer: NodeJS.Timeout;
}

/** The one live feed of a server: it feeds the project that switched it on last. */
export class FeedRoom {
  private readonly settings: FeedRoomSettings;
  private readonly access: () => Access | undefined;
  private running: Running | undefined;

  /** @param access  who has to show the token, once that is known */
  constructor(settings: FeedRoomSettings, access: () => Access | undefined = () => undefined) {
    this.settings = settings;
    this.access = access;
  }

  /**
   * Brings the feed into line with a wish.
   *
   * @throws BumbrelError for an address that may not be sent to, or a sound that cannot be read
   */
  async follow(
    projectId: string,
    scene: Scene,
    { on, osc, live }: FeedWish,
    sounds: SoundStore,
    parts: PageParts,
  ): Promise<void> {
    const targets = osc.map((text) => ({ text, target: oscTarget(text, this.settings.allowed) }));
    if (!on) {
      if (this.running?.projectId === projectId) await this.close();
      return;
    }
    const { strands } = await projectNumbers(scene, scene.strands, sounds, parts);
    const known = new TrackSource(strands.map(({ strand: { id, name }, track }) => ({ id, name, track })));
    const told = new ToldSource(live.filter(({ id }) => !strands.some(({ strand }) => strand.id === id)));
    const source = new JoinedSource([known, told]);
    if (this.running && this.running.projectId !== projectId) await this.close();
    if (this.running) {
      this.running.feed.setSource(source);
      this.running.told = told;
    } else this.running = await this.begin(projectId, new Feed(source), told);
    const { feed, osc: there } = this.running;
    for (const [text, receiver] of there) {
      if (osc.includes(text)) continue;
      feed.receivers.delete(receiver);
      receiver.close();
      there.delete(text);
    }
    for (const { text, target } of targets) {
      if (there.has(text)) continue;
      const receiver = new OscReceiver(target);
      there.set(text, receiver);
      feed.receivers.add(receiver);
    }
  }

  private async begin(projectId: string, feed: Feed, told: ToldSource): Promise<Running> {
    const { port, host, allowHosts, allowOrigins } = this.settings;
    const access = this.access();
    const server = new FeedServer(
      feed,
      new Door({ host, allowHosts, allowOrigins, pages: "of-this-machine", access }),
    );
    const address = await server.listen(port, host).catch(() => server.listen(0, host));
    const rates: Running["rates"] = new Map();
    const timer = setInterval(() => {
      for (const receiver of rates.keys()) if (!feed.receivers.has(receiver)) rates.delete(receiver);
      for (const receiver of feed.receivers) {
        const before = rates.get(receiver)?.sent ?? receiver.sent;
        rates.set(receiver, { sent: receiver.sent, rate: ((receiver.sent - before) * 1000) / RATE_MS });
      }
    }, RATE_MS);
    timer.unref();
    return { projectId, feed, server, address, told, osc: new Map(), rates, timer };
  }

  /** Follows the clock of whoever plays. */
  setClock(projectId: string, { playing, positionS, numbers = {}, cues = [] }: FeedClock): void {
    const { running } = this;
    if (running?.projectId !== projectId) return;
    for (const [id, own] of Object.entries(numbers)) running.told.tell(id, own);
    for (const { id, strength } of cues) running.told.tellCue(id, strength);
    running.feed.setClock(playing, positionS);
  }

  state(projectId: string): FeedState {
    const { running } = this;
    if (running?.projectId !== projectId)
      return { on: false, address: null, playing: false, timeS: 0, strands: [], receivers: [] };
    const { feed, address, rates } = running;
    return {
      on: true,
      address,
      playing: feed.playing,
      timeS: feed.timeS,
      strands: feed.strands.map((strand) => ({ ...strand })),
      receivers: [...feed.receivers].map((receiver) => {
        const { name, sent, dropped, last } = receiver;
        return { name, sent, dropped, last: last.slice(0, 200), rate: rates.get(receiver)?.rate ?? 0 };
      }),
    };
  }

  async close(): Promise<void> {
    const { running } = this;
    this.running = undefined;
    if (!running) return;
    clearInterval(running.timer);
    running.feed.close();
    await running.server.close();
  }
}
