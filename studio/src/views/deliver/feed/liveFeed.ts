import type { FeedState, FeedWish } from "@bumbrel/api/contracts";
import { happensLive } from "@bumbrel/core/document/strands/strands";
import { measureWidth } from "@bumbrel/core/strand/measures/table";
import { trackValueAt } from "@bumbrel/core/strand/track";
import { create } from "zustand";
import { api } from "../../../api/client";
import type { Session } from "../../../session/session";
import { MidiOut } from "./midiOut";

/** How often the clock is told while the tape plays, and with the numbers of live strands, ms. */
const CLOCK_MS = 250;
const LIVE_MS = 20;
/** How long edits are waited for before the feed takes the strands anew, ms. */
const EDIT_MS = 800;

interface FeedView {
  projectId: string | undefined;
  osc: string[];
  state: FeedState | undefined;
  midiName: string | undefined;
  failure: string | undefined;
}

/** The live feed of this page: on while it is open. */
export const useFeed = create<FeedView>(() => ({
  projectId: undefined,
  osc: ["127.0.0.1:9000"],
  state: undefined,
  midiName: undefined,
  failure: undefined,
}));

let link: FeedLink | undefined;

/** Tells the server's feed where the tape is, and what is heard live. */
class FeedLink {
  private readonly session: Session;
  private readonly endings: (() => void)[] = [];
  private isTelling = false;
  private isStale = false;
  private toldMs = 0;
  private liveCues = new Map<string, number>();
  private editing: ReturnType<typeof setTimeout> | undefined;
  midi: MidiOut | undefined;

  constructor(session: Session) {
    this.session = session;
    const { player, document } = session;
    this.endings.push(
      player.onFrame((timeS) => this.frame(timeS)),
      player.transport.onChange(() => void this.tell()),
      document.store.subscribe(({ scene }, before) => {
        const { strands, sounds, buses, groups, programs } = before.scene;
        const isSame =
          scene.strands === strands &&
          scene.sounds === sounds &&
          scene.buses === buses &&
          scene.groups === groups &&
          scene.programs === programs;
        if (isSame) return;
        clearTimeout(this.editing);
        this.editing = setTimeout(() => void follow(this.session, useFeed.getState().osc), EDIT_MS);
      }),
    );
  }

  private get liveStrands() {
    const { scene } = this.session.player;
    return scene.strands.filter((strand) => happensLive(scene, strand));
  }

  wishFor(osc: string[]): FeedWish {
    const live = this.liveStrands.map(({ id, name, measure }) => ({
      id,
      name,
      width: this.session.player.trackOf(id)?.width ?? measureWidth(measure),
    }));
    return { on: true, osc, live };
  }

  private frame(timeS: number): void {
    const { player } = this.session;
    if (this.midi && player.transport.state === "playing") {
      this.midi.update(player.scene.strands, (id) => player.trackOf(id), timeS, performance.now());
    }
    const everyMs = this.liveStrands.length > 0 ? LIVE_MS : CLOCK_MS;
    if (player.transport.state === "playing" && performance.now() - this.toldMs > everyMs) void this.tell();
  }

  /** Tells the clock; one telling at a time, the newest counts. */
  async tell(): Promise<void> {
    if (this.isTelling) {
      this.isStale = true;
      return;
    }
    this.isTelling = true;
    try {
      do {
        this.isStale = false;
        this.toldMs = performance.now();
        const { player, projectId } = this.session;
        const positionS = player.transport.positionS();
        const numbers: Record<string, number[]> = {};
        const cues: { id: string; strength: number }[] = [];
        for (const { id } of this.liveStrands) {
          const track = player.trackOf(id);
          if (!track) continue;
          numbers[id] = Array.from({ length: track.width }, (_none, band) =>
            trackValueAt(track, positionS, band),
          );
          const last = track.cues?.at(-1);
          if (last && last.timeS > (this.liveCues.get(id) ?? Number.NEGATIVE_INFINITY)) {
            if (this.liveCues.has(id)) cues.push({ id, strength: last.strength });
            this.liveCues.set(id, last.timeS);
          }
        }
        await api.tellFeed(projectId, {
          playing: player.transport.state === "playing",
          positionS,
          numbers,
          cues,
        });
      } while (this.isStale);
    } catch {
      // The feed waits: the next telling may reach it.
    } finally {
      this.isTelling = false;
    }
  }

  close(): void {
    clearTimeout(this.editing);
    for (const end of this.endings) end();
  }
}

async function follow(session: Session, osc: string[]): Promise<void> {
  useFeed.setState({ failure: undefined, osc });
  if (!link) return;
  try {
    await session.document.flush();
    const state = await api.setFeed(session.projectId, link.wishFor(osc));
    useFeed.setState({ state, projectId: session.projectId });
    await link.tell();
  } catch (error) {
    useFeed.setState({ failure: (error as Error).message });
  }
}

/** Switches the feed on, or gives it other places to send OSC to. */
export async function startFeed(session: Session, osc: string[]): Promise<void> {
  link ??= new FeedLink(session);
  await follow(session, osc);
}

export async function stopFeed(session: Session): Promise<void> {
  link?.close();
  link = undefined;
  useFeed.setState({ state: undefined, projectId: undefined, failure: undefined, midiName: undefined });
  await api.setFeed(session.projectId, { on: false, osc: [], live: [] }).catch(() => {});
}

/** How the feed is now. */
export async function lookAtFeed(session: Session): Promise<void> {
  const state = await api.feed(session.projectId).catch(() => undefined);
  if (state && useFeed.getState().projectId === session.projectId) useFeed.setState({ state });
}

/** MIDI devices that take messages. @throws Error when the browser has none or is not allowed to */
export async function midiOutputs(): Promise<{ id: string; name: string }[]> {
  if (!navigator.requestMIDIAccess) throw new Error("This browser has no MIDI. Use OSC, or another browser.");
  const { outputs } = await navigator.requestMIDIAccess();
  return [...outputs.values()].map(({ id, name }) => ({ id, name: name ?? "MIDI device" }));
}

/** Sends strands and cues to a MIDI device, or to none. */
export async function chooseMidi(id: string | undefined): Promise<void> {
  const output = id === undefined ? undefined : (await navigator.requestMIDIAccess()).outputs.get(id);
  if (link) link.midi = output && new MidiOut(output);
  useFeed.setState({ midiName: output?.name ?? undefined });
}

/** MIDI messages that have been sent. */
export const midiSent = (): number => link?.midi?.sent ?? 0;
