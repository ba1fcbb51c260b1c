const STEPS: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };

/**
 * Reads a note of equal temperament, A4 = 440 Hz: a letter, sharps (#, ♯) or flats (b, ♭), an octave.
 *
 * @returns Hz, or `undefined` when the text is no note
 * @example noteToHz("C#4") // 277.18…
 */
export function noteToHz(text: string): number | undefined {
  const match = /^([A-Ga-g])([#♯b♭]*)(-?\d{1,2})$/.exec(text.trim());
  if (!match) return undefined;
  const [, letter, accidentals, octave] = match;
  let midi = STEPS[letter.toUpperCase()] + 12 * (Number(octave) + 1);
  for (const sign of accidentals) midi += sign === "#" || sign === "♯" ? 1 : -1;
  return noteHz(midi);
}

/** Frequency of a MIDI note number; 69 is A4 = 440 Hz. */
export function noteHz(note: number): number {
  return 440 * 2 ** ((note - 69) / 12);
}
