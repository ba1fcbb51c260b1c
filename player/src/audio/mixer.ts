import { faderGain } from "@bumbrel/core/dsp/level/decibel";

/** Fader, pan and mute of a sound or a bus. */
interface Strip {
  id: string;
  faderDb: number;
  /** −1 left, 1 right. */
  pan: number;
  muted: boolean;
}

export interface MixSound extends Strip {
  heard: boolean;
  busId: string | null;
}
export type MixBus = Strip;

/** A point where a level can be read. */
export interface MeterPoint {
  id: string;
  node: AudioNode;
}

/** Name of the output among meter points. */
export const OUTPUT_ID = "output";
/** Time constant of changes of gain: too short to notice, long enough not to click. */
const GLIDE_S = 0.01;

interface StripNodes {
  /** Distance for sounds; the sum of its sounds for a bus. */
  entry: GainNode;
  fader: GainNode;
  pan: StereoPannerNode;
  /** Lets both ears hear where it is; only sounds that are heard from their direction. */
  side: PannerNode | undefined;
  /** Factors of the entry's gain. */
  distance: number;
  fade: number;
  /** Target that the entry's gain glides to. */
  entryGain: number;
  goesTo: AudioNode | undefined;
  /** True once it has its gain: a new one begins with it, and only changes glide. */
  isSet: boolean;
}

/**
 * Sounds → buses → output, as Web Audio nodes: distance, fader, equal-power pan, then the bus or the output.
 *
 * A sound that is only listened to reaches no bus; solo lets it be heard all the same.
 */
export class Mixer {
  readonly output: GainNode;
  private readonly context: BaseAudioContext;
  private readonly nowS: () => number;
  private readonly strips = new Map<string, StripNodes>();
  private points: MeterPoint[] = [];

  /** @param nowS  the time of the context at which changes are made */
  constructor(context: BaseAudioContext, nowS = () => context.currentTime) {
    this.context = context;
    this.nowS = nowS;
    this.output = context.createGain();
    this.output.connect(context.destination);
  }

  /**
   * Brings the nodes into line.
   *
   * @param solo  ids of sounds and buses of which nothing else is to be heard; empty for all
   */
  set(sounds: readonly MixSound[], buses: readonly MixBus[], solo: ReadonlySet<string>): void {
    const wanted = new Set([...sounds, ...buses].map(({ id }) => id));
    for (const [id, { entry, side, fader, pan }] of this.strips) {
      if (wanted.has(id)) continue;
      for (const node of [entry, side, fader, pan]) node?.disconnect();
      this.strips.delete(id);
    }
    const points: MeterPoint[] = [];
    for (const bus of buses) {
      const nodes = this.strip(bus);
      this.glide(nodes, bus, bus.muted ? 0 : faderGain(bus.faderDb));
      this.route(nodes, this.output);
      points.push({ id: bus.id, node: nodes.pan });
    }
    for (const sound of sounds) {
      const nodes = this.strip(sound);
      const isHeard = audible(sound, solo);
      this.glide(nodes, sound, isHeard ? faderGain(sound.faderDb) : 0);
      const bus = sound.busId === null ? undefined : this.strips.get(sound.busId);
      this.route(nodes, bus?.entry ?? this.output);
      points.push({ id: sound.id, node: isHeard ? nodes.pan : nodes.entry });
    }
    points.push({ id: OUTPUT_ID, node: this.output });
    this.points = points;
  }

  /** Node that a sound's sources connect to. */
  entryOf(soundId: string): AudioNode | undefined {
    return this.strips.get(soundId)?.entry;
  }

  /** Gain by distance, linear. */
  setDistanceGain(soundId: string, gain: number): void {
    const nodes = this.strips.get(soundId);
    if (!nodes) return;
    nodes.distance = gain;
    this.glideEntry(nodes);
  }

  /** Gain set by answers, linear. */
  setFade(soundId: string, gain: number): void {
    const nodes = this.strips.get(soundId);
    if (!nodes) return;
    nodes.fade = gain;
    this.glideEntry(nodes);
  }

  /**
   * Lets a sound come from somewhere, as both ears hear it; from nowhere without a place.
   *
   * @param place  x, y, z on the stage
   */
  setSide(soundId: string, place: readonly [number, number, number] | undefined): void {
    const nodes = this.strips.get(soundId);
    if (!nodes || (!place && !nodes.side)) return;
    const { entry, fader } = nodes;
    if (!place) {
      nodes.side?.disconnect();
      nodes.side = undefined;
      entry.disconnect();
      entry.connect(fader);
      return;
    }
    if (!nodes.side) {
      const side = this.context.createPanner();
      side.panningModel = "HRTF";
      // Distance has been reckoned with already.
      side.rolloffFactor = 0;
      nodes.side = side;
      entry.disconnect();
      entry.connect(side).connect(fader);
    }
    const { positionX, positionY, positionZ } = nodes.side;
    const at = this.nowS();
    positionX.setTargetAtTime(place[0], at, GLIDE_S);
    positionY.setTargetAtTime(place[1], at, GLIDE_S);
    positionZ.setTargetAtTime(place[2], at, GLIDE_S);
  }

  /** Position of the listener, and the directions ahead and up. */
  setListener(place: ArrayLike<number>, ahead: ArrayLike<number>, up: ArrayLike<number>): void {
    const { listener } = this.context;
    const currentTime = this.nowS();
    const glide = (param: AudioParam | undefined, value: number) =>
      param?.setTargetAtTime(value, currentTime, GLIDE_S);
    glide(listener.positionX, place[0]);
    glide(listener.positionY, place[1]);
    glide(listener.positionZ, place[2]);
    glide(listener.forwardX, ahead[0]);
    glide(listener.forwardY, ahead[1]);
    glide(listener.forwardZ, ahead[2]);
    glide(listener.upX, up[0]);
    glide(listener.upY, up[1]);
    glide(listener.upZ, up[2]);
  }

  private glideEntry(nodes: StripNodes): void {
    const { entry, distance, fade } = nodes;
    const gain = distance * fade;
    if (Math.abs(nodes.entryGain - gain) <= 1e-4) return;
    nodes.entryGain = gain;
    entry.gain.setTargetAtTime(gain, this.nowS(), GLIDE_S);
  }

  /** Output of each strip: after its fader and pan, or its input if it is not heard. */
  meterPoints(): readonly MeterPoint[] {
    return this.points;
  }

  private strip({ id }: Strip): StripNodes {
    let nodes = this.strips.get(id);
    if (!nodes) {
      const { context } = this;
      nodes = {
        entry: context.createGain(),
        fader: context.createGain(),
        pan: context.createStereoPanner(),
        side: undefined,
        distance: 1,
        fade: 1,
        entryGain: 1,
        goesTo: undefined,
        isSet: false,
      };
      nodes.entry.connect(nodes.fader);
      nodes.fader.connect(nodes.pan);
      this.strips.set(id, nodes);
    }
    return nodes;
  }

  private glide(nodes: StripNodes, strip: Strip, gain: number): void {
    const { fader, pan } = nodes;
    if (!nodes.isSet) {
      nodes.isSet = true;
      fader.gain.value = gain;
      pan.pan.value = strip.pan;
      return;
    }
    fader.gain.setTargetAtTime(gain, this.nowS(), GLIDE_S);
    pan.pan.setTargetAtTime(strip.pan, this.nowS(), GLIDE_S);
  }

  private route(nodes: StripNodes, to: AudioNode): void {
    if (nodes.goesTo === to) return;
    nodes.pan.disconnect();
    nodes.pan.connect(to);
    nodes.goesTo = to;
  }
}

/** True if a sound is audible. */
export function audible(sound: MixSound, solo: ReadonlySet<string>): boolean {
  if (solo.size === 0) return sound.heard && !sound.muted;
  return solo.has(sound.id) || (sound.heard && sound.busId !== null && solo.has(sound.busId));
}
