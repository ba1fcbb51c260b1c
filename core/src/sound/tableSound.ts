import { SAMPLE_RATE_HZ } from "../constants";
import { readTable, type Table } from "../format/table";
import type { SoundData } from "./signal";

/** A table sounds like nothing: silence of its length. */
export function soundTable({ durationS }: Table): Float32Array {
  return new Float32Array(Math.max(1, Math.round(durationS * SAMPLE_RATE_HZ)));
}

/**
 * Reads the bytes of a table of numbers.
 *
 * @throws SoundFormatError naming what is wrong with them
 */
export function tableSound(bytes: Uint8Array, name: string): SoundData {
  const table = readTable(bytes, name);
  const mono = soundTable(table);
  return { channels: [mono], mono, table };
}
