/** Parts of a sound that can be listened to by themselves: what strikes, as drums do, or what lasts, as chords do. */
export const SOUND_PARTS = { percussive: "what strikes", harmonic: "what lasts" } as const;
export type SoundPart = keyof typeof SOUND_PARTS;
export const SOUND_PART_NAMES = Object.keys(SOUND_PARTS) as SoundPart[];
