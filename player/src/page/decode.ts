import type { SoundData } from "@bumbrel/core/sound/signal";

/** Stored bytes of an encoded sound as samples; `undefined` when they are not encoded. */
export type DecodeSound = (bytes: Uint8Array, name: string) => Promise<SoundData | undefined>;

/** The build puts a decoder here for scenes with encoded sounds, see `decodeEncoded.ts`; without it none are. */
export const decodeSound: DecodeSound = async () => undefined;
