import { FFT_SIZES, FRAME_RATE_HZ, HOP_SAMPLES } from "@bumbrel/core/constants";
import { type InputSound, isLive, type Scene } from "@bumbrel/core/scene/document";
import { LiveStrand } from "@bumbrel/core/strand/live";
import type { Track } from "@bumbrel/core/strand/track";
import type { Transport } from "../audio/transport";
import { LiveInput } from "./liveInput";
import { LiveNotes } from "./liveNotes";

const LONGEST_SPECTRUM = FFT_SIZES[FFT_SIZES.length - 1];

interface Listener {
  strand: LiveStrand;
  soundId: string;
  settings: string;
}

/** A scene's inputs and keyboards, and the strands that listen to them as it happens. */
export class LiveSounds {
  readonly inputs = new Map<string, LiveInput>();
  readonly keys = new Map<string, LiveNotes>();
  private readonly transport: Transport;
  private readonly workletUrl: string;
  private readonly strands = new Map<string, Listener>();
  private readonly listeners = new Set<() => void>();
  private readonly taps = new Map<string, Set<(channels: Float32Array[]) => void>>();
  /** Samples of each input that its strands have heard. */
  private readonly heard = new Map<string, number>();
  private notesFrame = 0;
  private midi: MIDIAccess | undefined;
  private readonly ports = new Map<string, { port: MIDIInput; unplug(): void }>();
  /** The device each keyboard sound wants to hear, if not the one on the screen. */
  private readonly wantedKeys = new Map<string, string | undefined>();

  /** @param workletUrl  where `processors` was built to */
  constructor(transport: Transport, workletUrl: string) {
    this.transport = transport;
    this.workletUrl = workletUrl;
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
    for (const [id, { soundId }] of this.strands) {
      const strand = scene.strands.find((one) => one.id === id);
      if (strand?.listensTo.kind !== "sound" || strand.listensTo.id !== soundId || !alive.has(soundId)) {
        this.strands.delete(id);
      }
    }
    for (const { id, listensTo, measure, shaping } of scene.strands) {
      if (listensTo.kind !== "sound" || !alive.has(listensTo.id)) continue;
      const settings = JSON.stringify([measure, shaping]);
      if (this.strands.get(id)?.settings === settings) continue;
      if (measure.kind === "band" && measure.lowHz >= measure.highHz) continue;
      const strand = new LiveStrand({ measure, shaping });
      this.strands.set(id, { strand, soundId: listensTo.id, settings });
    }
  }

  /** Tracks of the strands that listen to something live, by strand id; they hold the newest number only. */
  tracks(): [string, Track][] {
    return [...this.strands].map(([id, { strand }]) => [id, strand.track]);
  }

  /** The newest number of a live strand before shaping. */
  rawOf(strandId: string): number | undefined {
    return this.strands.get(strandId)?.strand.raw;
  }

  /** Hands over blocks of an input as they come; gives a way to stop that. */
  tap(soundId: string, onBlock: (channels: Float32Array[]) => void): () => void {
    const taps = this.taps.get(soundId) ?? new Set();
    this.taps.set(soundId, taps.add(onBlock));
    return () => taps.delete(onBlock);
  }

  /** Lets keyboards' strands take over what is played. Call it once a frame. */
  update(now: number): void {
    const frame = Math.floor((now / 1000) * FRAME_RATE_HZ);
    const frames = Math.min(FRAME_RATE_HZ, frame - this.notesFrame);
    this.notesFrame = frame;
    for (const { strand, soundId } of this.strands.values()) {
      const notes = this.keys.get(soundId);
      for (let i = 0; notes && i < frames; i++) strand.hearNotes(notes);
    }
    if (frames > 0) for (const notes of this.keys.values()) notes.settle();
  }

  /** Asks the browser for keyboards and knob boxes; gives what there is, and tells of changes. */
  async findKeys(): Promise<{ id: string; name: string }[]> {
    if (!navigator.requestMIDIAccess) return [];
    if (!this.midi) {
      this.midi = await navigator.requestMIDIAccess();
      this.midi.onstatechange = () => {
        this.plugAll();
        this.tell();
      };
    }
    this.plugAll();
    return [...this.midi.inputs.values()].map(({ id, name }) => ({ id, name: name ?? "Keyboard" }));
  }

  dispose(): void {
    navigator.mediaDevices?.removeEventListener("devicechange", this.retry);
    for (const input of this.inputs.values()) input.close();
    for (const { unplug } of this.ports.values()) unplug();
    this.listeners.clear();
  }

  private inputOf({ id }: InputSound): LiveInput {
    let input = this.inputs.get(id);
    if (!input) {
      input = new LiveInput(
        () => this.transport.wake(),
        this.workletUrl,
        () => this.transport.entryOf(id),
        () => this.tell(),
        (channels) => this.take(id, channels),
      );
      this.inputs.set(id, input);
    }
    return input;
  }

  /** Every hop that came in gives one frame to each strand, from the samples up to its end. */
  private take(soundId: string, channels: Float32Array[]): void {
    for (const onBlock of this.taps.get(soundId) ?? []) onBlock(channels);
    const { history, received } = this.inputs.get(soundId)!;
    let heard = Math.min(this.heard.get(soundId) ?? 0, received);
    if (received - heard > history.length - LONGEST_SPECTRUM) heard = received - HOP_SAMPLES;
    while (received - heard >= HOP_SAMPLES) {
      heard += HOP_SAMPLES;
      const end = history.length - (received - heard);
      const latest = history.subarray(end - LONGEST_SPECTRUM, end);
      for (const listener of this.strands.values()) {
        if (listener.soundId === soundId) listener.strand.hearSamples(latest);
      }
    }
    this.heard.set(soundId, heard);
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
    this.tell();
  };

  private tell(): void {
    for (const listener of this.listeners) listener();
  }
}
