import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { faderGain } from "@bumbrel/core/dsp/decibel";

/** A sound as the transport plays it. */
export interface PlayableSound {
  id: string;
  /** Channels at 48 kHz, of equal length. */
  channels: readonly Float32Array[];
  heard: boolean;
  faderDb: number;
}

/**
 * - `paused`: position kept
 * - `playing`: sound is running and position follows the audio clock
 * - `held`: playing was asked for, but the browser lets no sound start without a gesture
 */
export type TransportState = "paused" | "playing" | "held";

/** How long the browser may take to start its sound before a person is asked for a gesture. */
const HELD_AFTER_MS = 300;
/** Sources start together this far ahead, so that none of them is late. */
const START_AHEAD_S = 0.02;

interface Voice {
  sound: PlayableSound;
  gain: GainNode;
  buffer: AudioBuffer;
  source: AudioBufferSourceNode | undefined;
}

/**
 * Plays a project's sounds together: play, pause, seek and loop, with the position read from the audio clock.
 *
 * The audio context is made at the first `play`, inside the gesture that asked for it.
 */
export class Transport {
  private context: AudioContext | undefined;
  private sounds: readonly PlayableSound[] = [];
  private voices: Voice[] = [];
  private keeper: ConstantSourceNode | undefined;
  private wanted = false;
  private running = false;
  private held = false;
  private loop = false;
  /** Position at `startedAt` on the audio clock while running, else the position. */
  private offsetS = 0;
  private startedAt = 0;
  private lengthS = 0;
  private readonly listeners = new Set<() => void>();

  /** Length of the longest sound in seconds, heard or not. */
  get durationS(): number {
    return this.lengthS;
  }

  get looping(): boolean {
    return this.loop;
  }

  get state(): TransportState {
    if (this.running) return "playing";
    return this.held ? "held" : "paused";
  }

  /** Calls `listener` whenever state, loop or length change or the position jumps; gives a way to stop that. */
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Replaces the sounds; playing goes on from the same position. */
  setSounds(sounds: readonly PlayableSound[]): void {
    const sameMaterial =
      sounds.length === this.sounds.length &&
      sounds.every((sound, i) => {
        const old = this.sounds[i];
        return sound.id === old.id && sound.channels === old.channels && sound.heard === old.heard;
      });
    this.sounds = sounds;
    if (sameMaterial) {
      for (const voice of this.voices) {
        const sound = sounds.find(({ id }) => id === voice.sound.id);
        if (sound) voice.gain.gain.setTargetAtTime(faderGain(sound.faderDb), this.context!.currentTime, 0.01);
      }
      return;
    }
    const position = this.positionS();
    const wasRunning = this.running;
    this.lengthS = sounds.reduce(
      (length, { channels }) => Math.max(length, channels[0].length / SAMPLE_RATE_HZ),
      0,
    );
    if (this.context) this.makeVoices(this.context);
    this.jump(Math.min(position, this.lengthS), wasRunning);
  }

  setLoop(loop: boolean): void {
    if (loop === this.loop) return;
    const position = this.positionS();
    this.loop = loop;
    this.jump(position);
  }

  /** Starts or goes on. Call it from a gesture; without one the state may become `held` until the next call. */
  play(): void {
    if (this.running || this.lengthS === 0) return;
    this.wanted = true;
    if (this.offsetS >= this.lengthS) this.offsetS = 0;
    if (!this.context) {
      this.context = new AudioContext({ sampleRate: SAMPLE_RATE_HZ, latencyHint: "interactive" });
      this.context.onstatechange = () => this.followContext();
      this.makeVoices(this.context);
    }
    void this.context.resume();
    this.followContext();
    if (!this.running) setTimeout(() => this.noticeHeld(), HELD_AFTER_MS);
    this.tell();
  }

  pause(): void {
    const position = this.positionS();
    this.wanted = false;
    this.held = false;
    this.stopSources();
    this.offsetS = position;
    this.tell();
  }

  toggle(): void {
    if (this.running) this.pause();
    else this.play();
  }

  /** Moves to a time in seconds, kept inside the sound; playing goes on from there. */
  seek(timeS: number): void {
    this.jump(Math.min(this.lengthS, Math.max(0, Number.isFinite(timeS) ? timeS : 0)));
  }

  /** What is heard now, in seconds since the start of the sounds. */
  positionS(): number {
    if (!this.running || !this.context) return this.offsetS;
    const sinceStart = this.context.currentTime - (this.context.outputLatency || 0) - this.startedAt;
    const position = this.offsetS + Math.max(0, sinceStart);
    if (this.loop) return this.lengthS > 0 ? position % this.lengthS : 0;
    return Math.min(position, this.lengthS);
  }

  dispose(): void {
    this.wanted = false;
    this.stopSources();
    this.listeners.clear();
    void this.context?.close();
    this.context = undefined;
  }

  private jump(timeS: number, playOn = this.running): void {
    this.stopSources();
    this.offsetS = timeS;
    if (playOn) this.startSources();
    this.tell();
  }

  /** Starts what waits once the browser lets the context run, and keeps the place if it stops it. */
  private followContext(): void {
    if (this.context?.state === "running") {
      this.held = false;
      if (this.wanted && !this.running) this.startSources();
    } else if (this.running) {
      const position = this.positionS();
      this.stopSources();
      this.offsetS = position;
      this.noticeHeld();
    }
    this.tell();
  }

  private noticeHeld(): void {
    if (!this.wanted || this.running) return;
    this.held = true;
    this.tell();
  }

  /** All buffers are as long as the longest sound, so that loops stay together. */
  private makeVoices(context: AudioContext): void {
    this.stopSources();
    for (const voice of this.voices) voice.gain.disconnect();
    const length = Math.round(this.lengthS * SAMPLE_RATE_HZ);
    this.voices = this.sounds
      .filter(({ heard }) => heard)
      .map((sound) => {
        const buffer = context.createBuffer(sound.channels.length, length, SAMPLE_RATE_HZ);
        sound.channels.forEach((channel, i) => {
          buffer.copyToChannel(channel as Float32Array<ArrayBuffer>, i);
        });
        const gain = context.createGain();
        gain.gain.value = faderGain(sound.faderDb);
        gain.connect(context.destination);
        return { sound, gain, buffer, source: undefined };
      });
  }

  private startSources(): void {
    const context = this.context;
    if (!context || this.lengthS === 0) return;
    const when = context.currentTime + START_AHEAD_S;
    for (const voice of this.voices) {
      const source = context.createBufferSource();
      source.buffer = voice.buffer;
      source.loop = this.loop;
      source.connect(voice.gain);
      source.start(when, this.offsetS);
      voice.source = source;
    }
    this.running = true;
    this.startedAt = when;
    if (!this.loop) this.watchForEnd(context, when);
  }

  /** A silent source as long as what is left tells of the end, whether any sound is heard or not. */
  private watchForEnd(context: AudioContext, when: number): void {
    const keeper = context.createConstantSource();
    const silence = context.createGain();
    silence.gain.value = 0;
    keeper.connect(silence).connect(context.destination);
    keeper.start(when);
    keeper.stop(when + this.lengthS - this.offsetS);
    keeper.onended = () => {
      this.wanted = false;
      this.stopSources();
      this.offsetS = this.lengthS;
      this.tell();
    };
    this.keeper = keeper;
  }

  private stopSources(): void {
    this.running = false;
    if (this.keeper) {
      this.keeper.onended = null;
      this.keeper.disconnect();
      this.keeper = undefined;
    }
    for (const voice of this.voices) {
      if (!voice.source) continue;
      voice.source.onended = null;
      voice.source.stop();
      voice.source.disconnect();
      voice.source = undefined;
    }
  }

  private tell(): void {
    for (const listener of this.listeners) listener();
  }
}
