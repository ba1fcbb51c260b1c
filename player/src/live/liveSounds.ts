import { FRAME_RATE_HZ } from "@bumbrel/core/constants";
import type { Scene } from "@bumbrel/core/document/scene";
import { happensLive, inMakingOrder, readsZone, tuningOf } from "@bumbrel/core/document/strands/strands";
import type { Cue } from "@bumbrel/core/sound/cue";
import { type InputSound, isLive } from "@bumbrel/core/sound/kinds";
import { CombinedLive, LiveStrand } from "@bumbrel/core/strand/hearing/live";
import { isUpsideDown, measureWidth, windowLatencyS } from "@bumbrel/core/strand/measures/table";
import { addFrames, type LiveTrack, liveTrack, type Track, trackValueAt } from "@bumbrel/core/strand/track";
import type { Tuning } from "@bumbrel/core/strand/tuning";
import type { Transport } from "../audio/transport";
import { LiveInput } from "./liveInput";
import { LiveNotes } from "./liveNotes";
import type { LiveNumbers } from "./strandHost";
import { StrandWorker } from "./strandWorker";

/** Addresses of the files that live sounds need and that are built apart. */
export interface LiveUrls {
  /** `audio/processors`, which captures inputs on the audio thread. */
  worklet: string;
  /** `live/strands.worker`, which reads their strands. */
  worker: string;
}

/** A live strand as the page knows it. */
interface Listener {
  soundId: string | undefined;
  settings: string;
  track: LiveTrack;
  /** Its numbers before shaping. */
  raw: LiveTrack;
  /** Reads it here, for keyboards; inputs are read in the worker. */
  keys: LiveStrand | undefined;
  /** Reads it here from other strands. */
  combined: CombinedLive | undefined;
  /** A program makes it of other strands, in the worker; with how many numbers each of them has. */
  made: { tuning: Tuning; widths: string } | undefined;
  windowS: number;
  /** Its newest cues, and how many there have been. */
  cues: Cue[];
  cueCount: number;
}

/** Seconds by which a live strand is late, and of what. */
export interface Lateness {
  /** Half of what its measure looks at. */
  windowS: number;
  /** From the device to the page. */
  inputS: number;
  /** To the worker and back. */
  workS: number;
}

/** A scene's inputs and keyboards, and the strands that listen to them as it happens. */
export class LiveSounds {
  readonly inputs = new Map<string, LiveInput>();
  readonly keys = new Map<string, LiveNotes>();
  private readonly transport: Transport;
  private readonly urls: LiveUrls;
  private readonly worker: StrandWorker;
  /** Why programs of live strands do not run, by strand; with the tuning that failed. */
  private readonly failed = new Map<string, { settings: string; message: string }>();
  private scene: Scene | undefined;
  /** Milliseconds to the worker and back, smoothed. */
  private passMs = 0;
  /** Increases when a strand has another track than before. */
  version = 0;
  private readonly strands = new Map<string, Listener>();
  private readonly listeners = new Set<() => void>();
  private readonly taps = new Map<string, Set<(channels: Float32Array[]) => void>>();
  private notesFrame = 0;
  private tapeS = 0;
  /** When the tape was seen to move last. */
  private ranAtS = Number.NEGATIVE_INFINITY;
  /** Seconds by which the time of what is heard live is ahead of the tape. */
  private aheadS = Number.POSITIVE_INFINITY;
  /** Live sound continues while the tape stands still: it has a time of its own. */
  private readonly positionS = (timeS: number) => this.aheadS + Math.min(timeS, this.tapeS);
  private midi: MIDIAccess | undefined;
  private readonly ports = new Map<string, { port: MIDIInput; unplug(): void }>();
  /** The device each keyboard sound wants to hear, if not the one on the screen. */
  private readonly wantedKeys = new Map<string, string | undefined>();

  constructor(transport: Transport, urls: LiveUrls) {
    this.transport = transport;
    this.urls = urls;
    this.worker = new StrandWorker(urls.worker, {
      onNumbers: (strands, sentMs) => this.hear(strands, sentMs),
      onFailed: (id, message, isGone) => this.fail(id, message, isGone),
    });
    navigator.mediaDevices?.addEventListener("devicechange", this.retry);
  }

  /** Calls `listener` after an input changed its state, a device came or went; gives a way to stop that. */
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Brings inputs, keyboards and strands into line with a scene. */
  setScene(scene: Scene): void {
    const alive = new Set(scene.sounds.filter(isLive).map(({ id }) => id));
    for (const [id, input] of this.inputs) {
      if (alive.has(id)) continue;
      input.close();
      this.inputs.delete(id);
      if (this.worker.isRunning) this.worker.send({ kind: "stop", soundId: id });
    }
    for (const id of this.keys.keys()) if (!alive.has(id)) this.keys.delete(id);
    for (const sound of scene.sounds) {
      if (sound.kind === "input") this.inputOf(sound).change(sound);
      else if (sound.kind === "keys") {
        if (!this.keys.has(sound.id)) this.keys.set(sound.id, new LiveNotes());
        this.wantedKeys.set(sound.id, sound.device?.id);
      }
    }
    for (const id of this.wantedKeys.keys()) {
      if (this.keys.has(id)) continue;
      this.plug(id, undefined);
      this.wantedKeys.delete(id);
    }
    this.plugAll();
    this.scene = scene;
    this.followStrands(scene);
  }

  private followStrands(scene: Scene): void {
    const live = inMakingOrder(scene).filter(
      (strand) => happensLive(scene, strand) && !readsZone(scene, strand) && !isUpsideDown(strand.measure),
    );
    const wanted = new Set(live.map(({ id }) => id));
    for (const [id, { combined, made }] of this.strands) {
      if (wanted.has(id)) continue;
      combined?.dispose();
      if (made) this.worker.send({ kind: "unmake", id });
      this.strands.delete(id);
      this.failed.delete(id);
    }
    for (const strand of live) {
      const { id, listensTo, measure } = strand;
      const tuning = tuningOf(scene, strand);
      const settings = JSON.stringify([listensTo, tuning]);
      if (this.strands.get(id)?.settings === settings) continue;
      const soundId = listensTo.kind === "sound" ? listensTo.id : undefined;
      const isKeys = soundId !== undefined && this.keys.has(soundId);
      const width = isKeys || soundId === undefined ? 1 : measureWidth(measure);
      // Its last numbers stay until the next ones come.
      const old = this.strands.get(id);
      const kept = old?.track.width === width ? old : undefined;
      old?.combined?.dispose();
      const keys = isKeys ? new LiveStrand(tuning, "keys") : undefined;
      const isProgram = tuning.code !== undefined;
      const combined = soundId === undefined && !isProgram ? new CombinedLive(tuning) : undefined;
      const made = soundId === undefined && isProgram ? { tuning, widths: "" } : undefined;
      this.strands.set(id, {
        soundId,
        settings,
        track: kept?.track ?? liveTrack(width),
        raw: kept?.raw ?? liveTrack(width),
        windowS: windowLatencyS(measure, tuning.part),
        cues: kept?.cues ?? [],
        cueCount: 0,
        keys,
        combined,
        made,
      });
    }
    for (const soundId of this.inputs.keys()) {
      const listening = live.filter(
        (strand) => strand.listensTo.kind === "sound" && strand.listensTo.id === soundId,
      );
      if (listening.length === 0 && !this.worker.isRunning) continue;
      const strands = listening
        .filter(({ id }) => !this.hasFailed(id))
        .map((strand) => ({ id: strand.id, tuning: tuningOf(scene, strand) }));
      this.worker.send({ kind: "listen", soundId, strands });
    }
  }

  private hasFailed(id: string): boolean {
    const settings = this.strands.get(id)?.settings;
    return settings !== undefined && this.failed.get(id)?.settings === settings;
  }

  /** Why the program of a live strand does not run; `undefined` while it does. */
  failureOf(id: string): string | undefined {
    return this.hasFailed(id) ? this.failed.get(id)!.message : undefined;
  }

  /** Leaves a program out until it is another one. */
  private fail(id: string, message: string, isGone: boolean): void {
    const listener = this.strands.get(id);
    if (listener) this.failed.set(id, { settings: listener.settings, message });
    if (isGone && this.scene) {
      for (const { made } of this.strands.values()) if (made) made.widths = "";
      this.followStrands(this.scene);
    }
    this.notify();
  }

  /** Takes over what the worker has read. */
  private hear(strands: readonly LiveNumbers[], sentMs: number): void {
    this.passMs += (performance.now() - sentMs - this.passMs) * 0.1;
    for (const { id, raw, shaped, width, cueCount, cueStrength } of strands) {
      const listener = this.strands.get(id);
      if (!listener) continue;
      if (listener.made) this.widen(listener, width);
      if (raw.length % listener.raw.width !== 0) continue;
      addFrames(listener.raw, raw, liveNowS());
      addFrames(listener.track, shaped, liveNowS());
      noteCue(listener, cueCount, cueStrength);
    }
  }

  /** Tracks of the strands that listen to something live, by strand id; they remember the last seconds. */
  tracks(): [string, Track][] {
    return [...this.strands].map(([id, { track, cues }]) => {
      track.positionS = this.positionS;
      track.cues = cues;
      return [id, track];
    });
  }

  /** True if any strand listens to something live. */
  get isListening(): boolean {
    return this.strands.size > 0;
  }

  /** The last seconds of a live strand before and after shaping, and its newest cues. */
  recordOf(strandId: string): Pick<Listener, "raw" | "track" | "cues"> | undefined {
    return this.strands.get(strandId);
  }

  /** By how much a live strand's numbers are late. */
  latenessOf(strandId: string): Lateness | undefined {
    const listener = this.strands.get(strandId);
    if (!listener) return undefined;
    const input = listener.soundId === undefined ? undefined : this.inputs.get(listener.soundId);
    const { deviceS = 0, bufferS = 0, passingS = 0 } = input?.latency ?? {};
    return {
      windowS: listener.windowS,
      inputS: deviceS + bufferS + passingS,
      workS: input ? this.passMs / 1000 : 0,
    };
  }

  /** Hands over blocks of an input as they come; gives a way to stop that. */
  tap(soundId: string, onBlock: (channels: Float32Array[]) => void): () => void {
    const taps = this.taps.get(soundId) ?? new Set();
    this.taps.set(soundId, taps.add(onBlock));
    return () => taps.delete(onBlock);
  }

  /**
   * Brings strands on keyboards, and those made of live ones, up to now. Call it once a frame.
   *
   * @param now  milliseconds, as the page counts them
   * @param tracks  every strand's track, for those that are made of others
   * @param timeS  where the tape is
   */
  update(now: number, tracks: ReadonlyMap<string, Track> = new Map(), timeS = 0): void {
    this.followTape(now / 1000, timeS);
    const frame = Math.floor((now / 1000) * FRAME_RATE_HZ);
    const frames = Math.min(FRAME_RATE_HZ, frame - this.notesFrame);
    this.notesFrame = frame;
    for (const [id, listener] of this.strands) {
      const { keys, combined, made, soundId } = listener;
      if (keys) {
        const notes = this.keys.get(soundId!);
        for (let i = 0; notes && i < frames; i++) {
          keys.readNotesNow(notes);
          this.takeOver(listener, keys);
        }
      } else if (combined || made) {
        const { listensTo } = this.scene!.strands.find((one) => one.id === id)!;
        if (listensTo.kind !== "strands") continue;
        const sources = listensTo.ids.flatMap((source) => tracks.get(source) ?? []);
        if (made) this.sendFrames(id, made, sources, timeS, frames);
        if (!combined) continue;
        for (let i = 0; i < frames; i++) {
          combined.readStrands(sources, timeS);
          this.takeOver(listener, combined);
        }
      }
    }
    if (frames > 0) for (const notes of this.keys.values()) notes.settle();
  }

  /**
   * The tape's time comes in jumps of an audio buffer. Live time keeps an even pace beside it while it runs, so that what
   * steps along with the tape meets each cue once.
   */
  private followTape(nowS: number, tapeS: number): void {
    const ranS = tapeS - this.tapeS;
    if (ranS !== 0) this.ranAtS = nowS;
    const offS = nowS - tapeS - this.aheadS;
    const runs = ranS >= 0 && ranS < APART_S && nowS - this.ranAtS < STANDS_S;
    this.aheadS = runs && Math.abs(offS) < APART_S ? this.aheadS + offS * DRAWN : nowS - tapeS;
    this.tapeS = tapeS;
  }

  /** Asks the browser for MIDI devices; returns those that are connected, and reports changes. */
  async findKeys(): Promise<{ id: string; name: string }[]> {
    if (!navigator.requestMIDIAccess) return [];
    if (!this.midi) {
      this.midi = await navigator.requestMIDIAccess();
      this.midi.onstatechange = () => {
        this.plugAll();
        this.notify();
      };
    }
    this.plugAll();
    return [...this.midi.inputs.values()].map(({ id, name }) => ({ id, name: name ?? "Keyboard" }));
  }

  dispose(): void {
    navigator.mediaDevices?.removeEventListener("devicechange", this.retry);
    for (const input of this.inputs.values()) input.close();
    for (const { unplug } of this.ports.values()) unplug();
    this.worker.dispose();
    this.listeners.clear();
  }

  /** Has a program make as many frames of others as have passed; each source is read where the tape is. */
  private sendFrames(
    id: string,
    made: NonNullable<Listener["made"]>,
    sources: readonly Track[],
    timeS: number,
    frames: number,
  ): void {
    if (frames === 0 || sources.length === 0 || this.hasFailed(id)) return;
    const widths = sources.map(({ width }) => width);
    if (made.widths !== widths.join()) {
      made.widths = widths.join();
      this.worker.send({ kind: "make", id, tuning: made.tuning, widths });
    }
    const frame = sources.flatMap((track) =>
      Array.from({ length: track.width }, (_none, band) => trackValueAt(track, timeS, band)),
    );
    const numbers = new Float32Array(frames * frame.length);
    for (let i = 0; i < frames; i++) numbers.set(frame, i * frame.length);
    const timesS = Array.from({ length: frames }, () => timeS);
    this.worker.send({ kind: "frames", id, timesS, numbers, sentMs: performance.now() }, [numbers.buffer]);
  }

  private widen(listener: Listener, width: number): void {
    if (listener.track.width === width) return;
    listener.track = liveTrack(width);
    listener.raw = liveTrack(width);
    this.version++;
  }

  private takeOver(listener: Listener, { track, raw, cueCount, lastCue }: LiveStrand | CombinedLive): void {
    noteCue(listener, cueCount, lastCue?.strength ?? 0);
    this.widen(listener, track.width);
    addFrames(listener.track, track.values, liveNowS());
    addFrames(listener.raw, raw, liveNowS());
  }

  private inputOf({ id }: InputSound): LiveInput {
    let input = this.inputs.get(id);
    if (!input) {
      input = new LiveInput(
        () => this.transport.ensureContext(),
        this.urls.worklet,
        () => this.transport.entryOf(id),
        () => this.notify(),
        (channels) => this.take(id, channels),
      );
      this.inputs.set(id, input);
    }
    return input;
  }

  /** Every hop that came in gives one frame to each strand that listens; they are read in the worker. */
  private take(soundId: string, channels: Float32Array[]): void {
    for (const onBlock of this.taps.get(soundId) ?? []) onBlock(channels);
    if (![...this.strands.values()].some((listener) => listener.soundId === soundId)) return;
    // The input has just mixed them into the end of its history.
    const samples = this.inputs.get(soundId)!.history.slice(-channels[0].length);
    this.worker.send({ kind: "block", soundId, samples, sentMs: performance.now() }, [samples.buffer]);
  }

  private plugAll(): void {
    // A keyboard that was chosen on an earlier visit is asked for again.
    if (!this.midi && [...this.wantedKeys.values()].some((id) => id !== undefined)) {
      void this.findKeys().catch(() => undefined);
    }
    for (const [soundId, deviceId] of this.wantedKeys) this.plug(soundId, deviceId);
  }

  /** Listens to a device by its id, or to none; one that is listened to already is left alone. */
  private plug(soundId: string, deviceId: string | undefined): void {
    const port = deviceId === undefined ? undefined : this.midi?.inputs.get(deviceId);
    const plugged = this.ports.get(soundId);
    if (plugged?.port === port) return;
    plugged?.unplug();
    this.ports.delete(soundId);
    if (!port) return;
    const onMessage = ({ data }: MIDIMessageEvent) => data && this.keys.get(soundId)?.receive(data);
    port.addEventListener("midimessage", onMessage);
    void port.open();
    this.ports.set(soundId, { port, unplug: () => port.removeEventListener("midimessage", onMessage) });
  }

  private readonly retry = () => {
    for (const input of this.inputs.values()) input.retry();
    this.notify();
  };

  private notify(): void {
    for (const listener of this.listeners) listener();
  }
}

/** Tape and live time that are further apart than this have jumped, not drifted. */
const APART_S = 0.25;
/** A tape that has not moved for so long is paused. */
const STANDS_S = 0.1;
/** Share of a difference between them that is made up for in a frame. */
const DRAWN = 0.02;
const liveNowS = () => performance.now() / 1000;
/** Cues of a live strand that are remembered: those before have died away. */
const CUES_KEPT = 64;

/** Adds a cue that has arrived since the last call; a strand that was restarted counts from 0. */
function noteCue(listener: Listener, cueCount: number, strength: number): void {
  if (cueCount > listener.cueCount) {
    listener.cues.push({ timeS: liveNowS(), strength });
    if (listener.cues.length > CUES_KEPT) listener.cues.shift();
  }
  listener.cueCount = cueCount;
}
