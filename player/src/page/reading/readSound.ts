import { type PackedSamples, packSamples, type Samples } from "@bumbrel/core/dsp/maths/samples";
import { encodedFormatOf } from "@bumbrel/core/format/samples/encoded";
import type { Sound } from "@bumbrel/core/sound/kinds";
import type { SoundData } from "@bumbrel/core/sound/signal";

/** Samples of a sound on their way to the page. */
export interface SoundMessage {
  kind: "sound";
  soundId: string;
  data: { channels: PackedSamples[]; mono: PackedSamples };
}

/**
 * Reads the sounds of a page, each by the reader of its kind; pages carry those of their own sounds.
 *
 * @param samples  how long sounds are that were encoded anew, by their ids
 * @param tell  takes each sound's samples for the page
 * @returns by sound id; live sounds have none
 */
export async function readSounds(
  sounds: readonly Sound[],
  bytes: ReadonlyMap<string, Uint8Array>,
  samples: Readonly<Record<string, number>>,
  tell: (message: SoundMessage) => void,
): Promise<Map<string, SoundData>> {
  const read = new Map<string, SoundData>();
  for (const sound of sounds) {
    const whole = await readSound(sound, bytes.get(sound.id));
    if (!whole) continue;
    const data = cutTo(whole, samples[sound.id]);
    read.set(sound.id, data);
    tell({
      kind: "sound",
      soundId: sound.id,
      data: { channels: data.channels.map(packSamples), mono: packSamples(data.mono) },
    });
  }
  return read;
}

async function readSound(sound: Sound, bytes: Uint8Array | undefined): Promise<SoundData | undefined> {
  switch (sound.kind) {
    case "tone":
    case "noise":
    case "clock":
      return (await import("@bumbrel/core/sound/made")).madeSoundData(sound);
    case "file":
      if (!bytes) return undefined;
      return encodedFormatOf(bytes)
        ? (await import("../../sound/decodeEncoded")).decodeSound(bytes, sound.name)
        : (await import("@bumbrel/core/sound/fileSound")).fileSound(bytes, sound.name);
    case "notes":
      return bytes && (await import("@bumbrel/core/sound/noteSound")).noteSound(bytes, sound.name);
    case "table":
      return bytes && (await import("@bumbrel/core/sound/tableSound")).tableSound(bytes, sound.name);
    case "input":
    case "keys":
      return undefined;
  }
}

/** A sound up to where it ended before it was encoded. */
function cutTo(data: SoundData, count: number | undefined): SoundData {
  // Only what is decoded is too long, and that is held plainly.
  const cut = (samples: Samples) =>
    samples instanceof Float32Array && count !== undefined ? samples.subarray(0, count) : samples;
  return { ...data, channels: data.channels.map(cut), mono: cut(data.mono) };
}
