/**
 * True if two lists of numbers are the same to the bit. Jest's own comparison takes a second for each 100 000 of them.
 */
export const sameNumbers = (a: Float32Array, b: Float32Array): boolean =>
  Buffer.from(a.buffer, a.byteOffset, a.byteLength).equals(Buffer.from(b.buffer, b.byteOffset, b.byteLength));
