import { levelToDb } from "@bumbrel/core/dsp/level/decibel";

/** A frequency as people read it: 84 Hz, 1.25 kHz. */
export function formatHz(hz: number): string {
  if (hz >= 10_000) return `${(hz / 1000).toFixed(1)} kHz`;
  if (hz >= 1000) return `${(hz / 1000).toFixed(2)} kHz`;
  return `${hz >= 100 ? hz.toFixed(0) : hz.toFixed(1)} Hz`;
}

const NOTES = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];

/** The nearest note of equal temperament, A4 = 440 Hz. */
export function noteName(hz: number): string {
  const midi = Math.round(69 + 12 * Math.log2(hz / 440));
  return `${NOTES[((midi % 12) + 12) % 12]}${Math.floor(midi / 12) - 1}`;
}

/** A level in dBFS; silence as −∞. */
export function formatDb(level: number): string {
  return `${formatTenths(levelToDb(level))} dB`;
}

/** A loudness; silence as −∞. */
export const formatLufs = (lufs: number): string => `${formatTenths(lufs)} LUFS`;

/** A figure to a tenth with a true minus sign; what there is none of as −∞. */
export function formatTenths(value: number | undefined): string {
  return value !== undefined && Number.isFinite(value) ? value.toFixed(1).replace("-", "−") : "−∞";
}

/** Minutes, seconds and tenths. */
export function formatTime(timeS: number): string {
  const tenths = Math.floor(timeS * 10 + 1e-6);
  const minutes = Math.floor(tenths / 600);
  return `${minutes}:${String(Math.floor(tenths / 10) % 60).padStart(2, "0")}.${tenths % 10}`;
}

/** A length in whole seconds, for lists. */
export function formatLength(timeS: number): string {
  const whole = Math.round(timeS);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

const BYTE_UNITS = ["bytes", "kB", "MB", "GB", "TB"];

/** Bytes in the largest unit that leaves one or more: 1536000 → "1.5 MB". */
export function formatBytes(bytes: number): string {
  const power = Math.min(BYTE_UNITS.length - 1, Math.max(0, Math.floor(Math.log10(Math.max(1, bytes)) / 3)));
  const value = bytes / 1000 ** power;
  return `${power === 0 || value >= 100 ? Math.round(value) : value.toFixed(1)} ${BYTE_UNITS[power]}`;
}
