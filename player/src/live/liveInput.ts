import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { InputSound } from "@bumbrel/core/sound/kinds";
import { MADE_UP_INPUT, openMadeUpInput } from "./madeUpInput";

/** The state of an input. */
export type InputState =
  | { kind: "off" }
  | { kind: "asking" }
  | { kind: "running"; deviceName: string; channelCount: number; rateHz: number; rates: number[] }
  /** Said as a sentence, with what to do; `gone` when the device went away, and is waited for. */
  | { kind: "failed"; reason: "refused" | "gone" | "other"; message: string };

/** Seconds of an input that are kept for looking at. */
export const HISTORY_S = 10;
type Settings = Pick<
  InputSound,
  "device" | "channel" | "rateHz" | "bufferSamples" | "echoCancelling" | "noiseSuppression"
>;

/** A microphone or interface, running or not: its newest samples, and how late they are. */
export class LiveInput {
  state: InputState = { kind: "off" };
  /** The newest samples of the mono mix, the very newest last. */
  readonly history = new Float32Array(HISTORY_S * SAMPLE_RATE_HZ);
  /** Samples that have come in since it was opened. */
  received = 0;
  /** Seconds from the moment the device took a sample to the moment it is here: told by the device, then measured. */
  latency = { deviceS: 0, bufferS: 0, passingS: 0 };

  private readonly wake: () => AudioContext;
  private readonly workletUrl: string;
  private readonly entry: () => AudioNode | undefined;
  private readonly onState: () => void;
  private readonly onBlock: (channels: Float32Array[]) => void;
  private settings: Settings | undefined;
  private stream: MediaStream | undefined;
  private nodes: AudioNode[] = [];
  private stopMadeUp: (() => void) | undefined;
  private attempt = 0;

  /**
   * @param wake  gives the audio context
   * @param workletUrl  where `processors` was built to
   * @param entry  where its sound goes to be heard
   * @param onState  called after each change of `state`
   * @param onBlock  called with each block of samples, channel by channel
   */
  constructor(
    wake: () => AudioContext,
    workletUrl: string,
    entry: () => AudioNode | undefined,
    onState: () => void,
    onBlock: (channels: Float32Array[]) => void,
  ) {
    this.wake = wake;
    this.workletUrl = workletUrl;
    this.entry = entry;
    this.onState = onState;
    this.onBlock = onBlock;
  }

  get isOn(): boolean {
    return this.state.kind === "running" || this.state.kind === "asking";
  }

  /** Opens the device, or another one: what was open is closed first. Call it from a gesture the first time. */
  async open(settings: Settings): Promise<void> {
    this.release();
    this.settings = settings;
    const attempt = ++this.attempt;
    const isStale = () => attempt !== this.attempt;
    this.become({ kind: "asking" });
    try {
      const context = this.wake();
      await context.audioWorklet.addModule(this.workletUrl);
      let stream: MediaStream;
      if (settings.device === null) {
        const madeUp = openMadeUpInput(context);
        this.stopMadeUp = madeUp.stop;
        stream = madeUp.stream;
      } else {
        stream = await this.ask(settings);
      }
      if (isStale()) {
        for (const track of stream.getTracks()) track.stop();
        return;
      }
      this.connect(context, stream, settings);
    } catch (error) {
      if (!isStale()) this.become(failureOf(error as Error, settings));
    }
  }

  /** Takes over other settings while it runs. */
  change(settings: Settings): void {
    if (this.isOn && JSON.stringify(settings) !== JSON.stringify(this.settings)) void this.open(settings);
    this.settings = settings;
  }

  close(): void {
    this.attempt++;
    this.release();
    this.become({ kind: "off" });
  }

  /** Opens it again if it was waiting for a device that has come back. */
  retry(): void {
    if (this.state.kind === "failed" && this.state.reason === "gone" && this.settings) {
      void this.open(this.settings);
    }
  }

  private async ask({ device, rateHz, echoCancelling, noiseSuppression }: Settings): Promise<MediaStream> {
    if (!navigator.mediaDevices) throw new DOMException("", "SecurityError");
    return navigator.mediaDevices.getUserMedia({
      audio: {
        deviceId: { exact: device!.id },
        channelCount: { ideal: 32 },
        echoCancellation: echoCancelling,
        noiseSuppression,
        autoGainControl: false,
        ...(rateHz !== null && { sampleRate: { exact: rateHz } }),
      },
    });
  }

  private connect(context: AudioContext, stream: MediaStream, settings: Settings): void {
    const [track] = stream.getAudioTracks();
    const given = track.getSettings();
    const source = context.createMediaStreamSource(stream);
    const capture = new AudioWorkletNode(context, "bumbrel-capture", {
      numberOfOutputs: 0,
      channelCountMode: "max",
      processorOptions: { bufferSamples: settings.bufferSamples, channel: settings.channel },
    });
    const { latency = 0 } = given as { latency?: number };
    const bufferS = settings.bufferSamples / SAMPLE_RATE_HZ;
    this.latency = { deviceS: latency, bufferS, passingS: 0 };
    this.received = 0;
    this.history.fill(0);
    capture.port.onmessage = ({ data }: MessageEvent<{ channels: Float32Array[]; endFrame: number }>) => {
      this.take(data.channels);
      const passingS = Math.max(0, context.currentTime - data.endFrame / SAMPLE_RATE_HZ);
      this.latency.passingS += (passingS - this.latency.passingS) * 0.05;
    };
    source.connect(capture);
    this.nodes = [source, capture];
    const entry = this.entry();
    if (entry) this.hear(context, source, settings.channel, entry);
    this.stream = stream;
    track.onended = () => {
      this.release();
      this.become({
        kind: "failed",
        reason: "gone",
        message: `${nameOf(settings)} was unplugged. Plug it in again to continue, or choose another one.`,
      });
    };
    this.become({
      kind: "running",
      deviceName: settings.device === null ? MADE_UP_INPUT : track.label || nameOf(settings),
      channelCount: given.channelCount ?? 1,
      rateHz: given.sampleRate ?? SAMPLE_RATE_HZ,
      rates: offeredRates(track),
    });
  }

  private hear(context: AudioContext, source: AudioNode, channel: number | null, entry: AudioNode): void {
    if (channel === null) {
      source.connect(entry);
      return;
    }
    const splitter = context.createChannelSplitter(32);
    source.connect(splitter);
    splitter.connect(entry, channel);
    this.nodes.push(splitter);
  }

  private take(channels: Float32Array[]): void {
    const { history } = this;
    const count = channels[0].length;
    history.copyWithin(0, count);
    const start = history.length - count;
    for (let i = 0; i < count; i++) {
      let sum = 0;
      for (let c = 0; c < channels.length; c++) sum += channels[c][i];
      history[start + i] = sum / channels.length;
    }
    this.received += count;
    this.onBlock(channels);
  }

  private release(): void {
    for (const node of this.nodes) {
      node.disconnect();
      if (node instanceof AudioWorkletNode) node.port.onmessage = null;
    }
    this.nodes = [];
    for (const track of this.stream?.getTracks() ?? []) {
      track.onended = null;
      track.stop();
    }
    this.stream = undefined;
    this.stopMadeUp?.();
    this.stopMadeUp = undefined;
  }

  private become(state: InputState): void {
    this.state = state;
    this.onState();
  }
}

const USUAL_RATES = [8000, 16_000, 22_050, 32_000, 44_100, 48_000, 88_200, 96_000, 192_000];

/** Usual rates that a device says it can run at. */
function offeredRates(track: MediaStreamTrack): number[] {
  const range = track.getCapabilities?.().sampleRate;
  if (range?.min === undefined || range.max === undefined) return [];
  return USUAL_RATES.filter((rate) => rate >= range.min! && rate <= range.max!);
}

const nameOf = ({ device }: Settings) => device?.name ?? MADE_UP_INPUT;

function failureOf(error: Error, settings: Settings): InputState {
  const name = nameOf(settings);
  switch (error.name) {
    case "NotAllowedError":
      return {
        kind: "failed",
        reason: "refused",
        message:
          "The browser was not allowed to use a microphone. Allow it in the address bar's site settings and switch it on again, or use the made-up microphone.",
      };
    case "NotFoundError":
      return {
        kind: "failed",
        reason: "gone",
        message: `${name} is not connected. Plug it in, or choose another one.`,
      };
    case "OverconstrainedError": {
      const asked = (error as OverconstrainedError).constraint;
      return {
        kind: "failed",
        reason: asked === "sampleRate" ? "other" : "gone",
        message:
          asked === "sampleRate"
            ? `${name} does not offer ${settings.rateHz} Hz. Choose another rate.`
            : `${name} is not connected. Plug it in, or choose another one.`,
      };
    }
    case "NotReadableError":
      return {
        kind: "failed",
        reason: "other",
        message: `${name} is taken by another program. Close that, or choose another input.`,
      };
    case "SecurityError":
      return {
        kind: "failed",
        reason: "other",
        message:
          "Browsers give microphones only to pages on this machine or over HTTPS. Open Bumbrel at 127.0.0.1.",
      };
    default:
      return { kind: "failed", reason: "other", message: `${name} could not be opened: ${error.message}` };
  }
}
