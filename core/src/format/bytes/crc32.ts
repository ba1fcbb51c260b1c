/** Remainders of single bytes. */
const TABLE = Uint32Array.from({ length: 256 }, (_none, byte) => {
  let rest = byte;
  for (let bit = 0; bit < 8; bit++) rest = rest & 1 ? 0xedb88320 ^ (rest >>> 1) : rest >>> 1;
  return rest;
});

/** CRC-32 as in ISO 3309, ZIP and PNG. */
export function crc32(bytes: Uint8Array): number {
  let rest = 0xffffffff;
  for (const byte of bytes) rest = TABLE[(rest ^ byte) & 255] ^ (rest >>> 8);
  return ~rest >>> 0;
}
