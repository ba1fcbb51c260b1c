import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { Samples } from "@bumbrel/core/dsp/maths/samples";
import type { Runs } from "@bumbrel/core/sound/mix";
import { Deck, type DeckSound, type Stretch } from "./deck";
import { type MixBus, Mixer, type MixSound } from "./mixer";

/** A sound as the transport plays it. */
export interface PlayableSound extends MixSound {
  /** Channels at 48 kHz, of equal length; none for a live sound, which has a strip only. */
  channels: readonly Samples[] | undefined;
  runs: Runs;
  loops: boolean;
  /** Its unit: sounds of the same unit start, seek and loop as one. */
  unitId: string;
}

/**
 * - `paused`: position kept
 * - `playing`: sound is running and position follows the audio clock
 * - `held`: playing was asked for, but the browser lets no sound start without a gesture
 */
export type TransportState = "paused" | "playing" | "held";

/** Seconds of a loop on the tape. */
export interface LoopStretch {
  fromS: number;
  toS: number;
}

/** How long the browser may take to start its sound before a person is asked for a gesture. */
const HELD_AFTER_MS = 300;
/** Sources start together this far ahead, so that none of them is late. */
const START_AHEAD = Math.round(0.02 * SAMPLE_RATE_HZ);
/** A machine that stands still for longer than this gets its sounds late. */
const MAX_START_AHEAD = 2 * SAMPLE_RATE_HZ;
/** How far ahead samples are handed on at once, and later on: a page in the background is called once a second. */
const FIRST_AHEAD = 0.4 * SAMPLE_RATE_HZ;
const AHEAD = 2.5 * SAMPLE_RATE_HZ;
const PUMP_EVERY_MS = 150;

const TAPE = "";
const NO_SOLO: ReadonlySet<string> = new Set();

/**
 * Plays a project's sounds: those of the tape together, others by themselves, with positions read from the audio
 * clock, through faders, pans and buses.
 *
 * The audio context is made at the first `play`, inside the gesture that asked for it.
 */
export class Transport {
  private context: AudioContext | undefined;
  private mixer: Mixer | undefined;
  private sounds: readonly PlayableSound[] = [];
  private buses: readonly MixBus[] = [];
  private solo = NO_SOLO;
  private loop = false;
  private stretch: LoopStretch | undefined;
  /** The tape's deck under {@link TAPE}, and one for each unit that runs alone. */
  private readonly decks = new Map<string, Deck>([[TAPE, new Deck()]]);
  private aloneUnits: string[] = [];
  /** Decks that were asked to play, whether the browser lets them or not. */
  private readonly wanted = new Set<string>();
  private keeper: ConstantSourceNode | undefined;
  private pumping: ReturnType<typeof setInterval> | undefined;
  private held = false;
  private readonly listeners = new Set<() => void>();
  private readonly contextListeners = new Set<(context: AudioContext, mixer: Mixer) => void>();
  private readonly mixListeners = new Set<() => void>();

  /** Length of the tape in seconds: that of its longest sound, heard or not; 0 without one, when it runs on and on. */
  get durationS(): number {
    return this.tape.length / SAMPLE_RATE_HZ;
  }

  get looping(): boolean {
    return this.loop;
  }

  get state(): TransportState {
    return this.stateOf(TAPE);
  }

  /** True if anything waits for a gesture, on the tape or by itself. */
  get isHeld(): boolean {
    return this.held;
  }

  /** Calls `listener` whenever state, loop or length change or a position jumps; gives a way to stop that. */
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Calls `use` with the audio context and mixer once there are any; gives a way to stop that. */
  onContext(use: (context: AudioContext, mixer: Mixer) => void): () => void {
    if (this.context && this.mixer) use(this.context, this.mixer);
    this.contextListeners.add(use);
    return () => this.contextListeners.delete(use);
  }

  /** Calls `listener` after strips came or went, or change what they give on. */
  onMix(listener: () => void): () => void {
    this.mixListeners.add(listener);
    return () => this.mixListeners.delete(listener);
  }

  /** Replaces the sounds and buses; playing continues from the same position. */
  setSounds(
    sounds: readonly PlayableSound[],
    buses: readonly MixBus[] = [],
    solo: ReadonlySet<string> = NO_SOLO,
  ): void {
    this.sounds = sounds;
    this.buses = buses;
    this.solo = solo;
    this.followMix();
    const units = new Map<string, PlayableSound[]>([[TAPE, []]]);
    for (const sound of sounds) {
      if (!sound.channels) continue;
      const unit = sound.runs === "tape" ? TAPE : sound.unitId;
      units.set(unit, [...(units.get(unit) ?? []), sound]);
    }
    let changed = false;
    for (const [unit, deck] of this.decks) {
      if (units.has(unit)) continue;
      deck.stop(0);
      this.decks.delete(unit);
      this.wanted.delete(unit);
      changed = true;
    }
    for (const [unit, members] of units) {
      const deck = this.decks.get(unit) ?? new Deck();
      const isNew = !this.decks.has(unit);
      this.decks.set(unit, deck);
      const loaded = deckSounds(members);
      if (!isNew && deck.holds(loaded)) continue;
      changed = true;
      this.reload(unit, deck, loaded);
    }
    this.aloneUnits = [...this.decks.keys()].filter((unit) => unit !== TAPE);
    if (changed) this.notify();
  }

  /** Makes the tape go round, whole or over a stretch of it. */
  setLoop(loop: boolean, stretch?: LoopStretch | null): void {
    const same =
      loop === this.loop && stretch?.fromS === this.stretch?.fromS && stretch?.toS === this.stretch?.toS;
    if (same) return;
    this.loop = loop;
    this.stretch = stretch ?? undefined;
    this.reload(TAPE, this.tape, undefined);
    this.notify();
  }

  /** Starts or resumes. Call it from a gesture; without one the state may become `held` until the next call. */
  play(): void {
    this.playUnit(TAPE);
  }

  pause(): void {
    this.pauseUnit(TAPE);
  }

  toggle(): void {
    if (this.state === "playing") this.pause();
    else this.play();
  }

  /** Moves the tape to a time in seconds, kept inside it; playing continues from there. */
  seek(timeS: number): void {
    this.seekUnit(TAPE, timeS);
  }

  /** Position of the tape that is heard now, in seconds since its start. */
  positionS(): number {
    return this.unitPositionS(TAPE);
  }

  /** The state of a unit that runs alone. */
  stateOf(unit: string): TransportState {
    if (this.decks.get(unit)?.isRunning) return "playing";
    return this.held && this.wanted.has(unit) ? "held" : "paused";
  }

  unitPositionS(unit: string): number {
    return (this.decks.get(unit)?.positionAt(this.heardFrame()) ?? 0) / SAMPLE_RATE_HZ;
  }

  unitDurationS(unit: string): number {
    return (this.decks.get(unit)?.length ?? 0) / SAMPLE_RATE_HZ;
  }

  /** Units that run alone. */
  get unitIds(): readonly string[] {
    return this.aloneUnits;
  }

  /** True if any unit runs by itself now. */
  get hasRunningUnits(): boolean {
    return this.aloneUnits.some((unit) => this.decks.get(unit)?.isRunning);
  }

  /** True if a unit starts again at its end. */
  unitLoops(unit: string): boolean {
    return this.decks.get(unit)?.isLooping ?? false;
  }

  /** Starts a unit, or lets it go on from where it was paused. */
  playUnit(unit: string): void {
    const deck = this.decks.get(unit);
    if (!deck || deck.isRunning) return;
    this.wanted.add(unit);
    this.ensureContext();
    this.followContext();
    if (!deck.isRunning) setTimeout(() => this.noticeHeld(), HELD_AFTER_MS);
    this.notify();
  }

  pauseUnit(unit: string): void {
    const deck = this.decks.get(unit);
    if (!deck) return;
    this.wanted.delete(unit);
    if (this.wanted.size === 0) this.held = false;
    this.halt(unit, deck, deck.positionAt(this.heardFrame()));
    this.notify();
  }

  seekUnit(unit: string, timeS: number): void {
    const deck = this.decks.get(unit);
    if (!deck) return;
    const { isRunning } = deck;
    this.halt(unit, deck, (Number.isFinite(timeS) ? timeS : 0) * SAMPLE_RATE_HZ);
    if (isRunning) this.startDeck(unit, deck);
    this.notify();
  }

  /** Resolves once sound runs, or after a moment without it. Call it from a gesture. */
  async whenReady(): Promise<void> {
    const context = this.ensureContext();
    const waited = new Promise<void>((resolve) => setTimeout(resolve, HELD_AFTER_MS));
    await Promise.race([context.resume(), waited]);
  }

  /** Holds everything where it is; `resumeAll` lets it go on. */
  holdAll(): void {
    this.heldUnits = [...this.decks].filter(([, deck]) => deck.isRunning).map(([unit]) => unit);
    for (const unit of this.heldUnits) this.pauseUnit(unit);
  }

  resumeAll(): void {
    for (const unit of this.heldUnits) this.playUnit(unit);
    this.heldUnits = [];
  }
  private heldUnits: string[] = [];

  /** Starts, pauses or moves a unit, so that it is as it is said to be. */
  setUnit(unit: string, running: boolean, positionS: number): void {
    const deck = this.decks.get(unit);
    if (!deck) return;
    if (!running) {
      if (deck.isRunning || this.wanted.has(unit)) this.pauseUnit(unit);
      this.seekUnit(unit, positionS);
      return;
    }
    this.seekUnit(unit, positionS);
    this.playUnit(unit);
  }

  /** True if a unit has been started and is not heard yet. */
  isStarting(unit: string): boolean {
    const deck = this.decks.get(unit);
    return deck?.isRunning === true && this.heardFrame() < deck.beginFrame;
  }

  /** Seconds from asking for a sound to hearing it. */
  get startDelayS(): number {
    return START_AHEAD / SAMPLE_RATE_HZ + (this.context?.outputLatency || 0);
  }

  /** Position of a sound in the scene; none for a sound without a place. */
  setSide(soundId: string, place: readonly [number, number, number] | undefined): void {
    this.mixer?.setSide(soundId, place);
  }

  setListener(place: ArrayLike<number>, ahead: ArrayLike<number>, up: ArrayLike<number>): void {
    this.mixer?.setListener(place, ahead, up);
  }

  /** Gain of a sound by answers, as a factor on top of its fader. */
  setFade(soundId: string, gain: number): void {
    this.mixer?.setFade(soundId, gain);
  }

  /** Gain of a sound by its distance from the listener; 1 next to it. */
  setDistanceGain(soundId: string, gain: number): void {
    this.mixer?.setDistanceGain(soundId, gain);
  }

  /** The audio context, made now if there is none: call it from a gesture. */
  ensureContext(): AudioContext {
    if (!this.context) {
      const context = new AudioContext({ sampleRate: SAMPLE_RATE_HZ, latencyHint: "interactive" });
      this.context = context;
      this.mixer = new Mixer(context);
      context.onstatechange = () => this.followContext();
      this.followMix();
      for (const use of this.contextListeners) use(context, this.mixer);
    }
    void this.context.resume();
    return this.context;
  }

  /** Input of the mix for a live sound's samples. */
  entryOf(soundId: string): AudioNode | undefined {
    return this.mixer?.entryOf(soundId);
  }

  dispose(): void {
    this.wanted.clear();
    for (const [unit, deck] of this.decks) this.halt(unit, deck, 0);
    clearInterval(this.pumping);
    this.listeners.clear();
    this.mixListeners.clear();
    this.contextListeners.clear();
    void this.context?.close();
    this.context = undefined;
    this.mixer = undefined;
  }

  private get tape(): Deck {
    return this.decks.get(TAPE)!;
  }

  /** The sample that is being heard now, on the audio clock. */
  private heardFrame(): number {
    if (!this.context) return 0;
    return (this.context.currentTime - (this.context.outputLatency || 0)) * SAMPLE_RATE_HZ;
  }

  private followMix(): void {
    if (!this.mixer) return;
    this.mixer.set(this.sounds, this.buses, this.solo);
    for (const listener of this.mixListeners) listener();
  }

  /** Gives a deck other sounds or another loop without losing its place. */
  private reload(unit: string, deck: Deck, sounds: readonly DeckSound[] | undefined): void {
    const { context, mixer } = this;
    if (sounds && context && mixer) {
      const soon = Math.ceil(context.currentTime * SAMPLE_RATE_HZ) + START_AHEAD;
      if (deck.exchange(sounds, context, soon, (id) => mixer.entryOf(id))) return;
    }
    const position = deck.positionAt(this.heardFrame());
    const { isRunning } = deck;
    this.halt(unit, deck, position);
    const members = sounds ?? deckSounds(this.sounds.filter((one) => one.channels && one.runs === "tape"));
    deck.load(members, this.loopFor(unit, members));
    deck.place(position);
    if (!isRunning) return;
    if (position < deck.endPosition || Number.isFinite(deck.endFrame) === false) this.startDeck(unit, deck);
    else this.wanted.delete(unit);
  }

  private loopFor(unit: string, sounds: readonly DeckSound[]): Stretch | undefined {
    const length = sounds.reduce((longest, { channels }) => Math.max(longest, channels[0].length), 0);
    if (unit !== TAPE) return sounds.some(({ period }) => period > 0) ? { from: 0, to: length } : undefined;
    if (!this.loop) return undefined;
    if (!this.stretch) return { from: 0, to: length };
    const { fromS, toS } = this.stretch;
    return { from: Math.round(fromS * SAMPLE_RATE_HZ), to: Math.round(toS * SAMPLE_RATE_HZ) };
  }

  /** Starts what waits once the browser lets the context run, and keeps places if it stops it. */
  private followContext(): void {
    if (this.context?.state === "running") {
      this.held = false;
      for (const unit of this.wanted) {
        const deck = this.decks.get(unit);
        if (deck && !deck.isRunning) this.startDeck(unit, deck);
      }
    } else {
      const stopped = [...this.decks].filter(([, deck]) => deck.isRunning);
      for (const [unit, deck] of stopped) this.halt(unit, deck, deck.positionAt(this.heardFrame()));
      if (stopped.length > 0) this.noticeHeld();
    }
    this.notify();
  }

  private noticeHeld(): void {
    const waits = [...this.wanted].some((unit) => !this.decks.get(unit)?.isRunning);
    if (!waits || this.held) return;
    this.held = true;
    this.notify();
  }

  private startDeck(unit: string, deck: Deck): void {
    const { context } = this;
    if (!context) return;
    this.startAhead(context, unit, deck);
    this.pumping ??= setInterval(() => this.pump(), PUMP_EVERY_MS);
    if (unit === TAPE && Number.isFinite(deck.endFrame)) this.watchForEnd(context, deck.endFrame);
  }

  /**
   * Starts a deck a little ahead of now. Sources that are handed over after their time begin at once, each on a sample of
   * its own: when the machine stood still past the lead, the deck begins again further ahead, so that its sounds begin on
   * the same sample.
   */
  private startAhead(context: AudioContext, unit: string, deck: Deck): void {
    for (let ahead = START_AHEAD; ; ahead *= 4) {
      const began = performance.now();
      const from = Math.ceil(context.currentTime * SAMPLE_RATE_HZ);
      deck.start(from + ahead);
      this.pumpDeck(deck, FIRST_AHEAD);
      // The audio clock may stand still for as long as this code runs.
      const passed = ((performance.now() - began) / 1000) * SAMPLE_RATE_HZ;
      const now = Math.max(context.currentTime * SAMPLE_RATE_HZ, from + passed);
      if (now <= from + ahead || ahead >= MAX_START_AHEAD) return;
      this.halt(unit, deck, deck.startPosition);
    }
  }

  private pump(): void {
    const now = this.heardFrame();
    for (const [unit, deck] of this.decks) {
      this.pumpDeck(deck, AHEAD);
      if (unit !== TAPE && deck.isRunning && now >= deck.endFrame) this.finish(unit, deck);
    }
    if ([...this.decks.values()].some(({ isRunning }) => isRunning)) return;
    clearInterval(this.pumping);
    this.pumping = undefined;
  }

  private pumpDeck(deck: Deck, ahead: number): void {
    const { context, mixer } = this;
    if (!context || !mixer) return;
    const until = Math.ceil(context.currentTime * SAMPLE_RATE_HZ) + ahead;
    deck.pump(context, until, (id) => mixer.entryOf(id));
  }

  /** A silent source as long as the rest of the tape reports its end, even when no sound is heard. */
  private watchForEnd(context: AudioContext, endFrame: number): void {
    const keeper = context.createConstantSource();
    const silence = context.createGain();
    silence.gain.value = 0;
    keeper.connect(silence).connect(context.destination);
    keeper.start();
    keeper.stop(endFrame / SAMPLE_RATE_HZ);
    keeper.onended = () => this.finish(TAPE, this.tape);
    this.keeper = keeper;
  }

  private finish(unit: string, deck: Deck): void {
    this.wanted.delete(unit);
    this.halt(unit, deck, deck.length);
    this.notify();
  }

  private halt(unit: string, deck: Deck, position: number): void {
    if (unit === TAPE && this.keeper) {
      this.keeper.onended = null;
      this.keeper.disconnect();
      this.keeper = undefined;
    }
    deck.stop(position);
  }

  private notify(): void {
    for (const listener of this.listeners) listener();
  }
}

/** Sounds as a deck plays them: those of one unit go round at the length of the longest. */
export function deckSounds(sounds: readonly PlayableSound[]): DeckSound[] {
  return sounds.map(({ id, channels, loops, unitId }) => {
    const unit = sounds.filter((one) => one.unitId === unitId);
    const period = loops ? Math.max(...unit.map((one) => one.channels![0].length)) : 0;
    return { id, channels: channels!, period };
  });
}
