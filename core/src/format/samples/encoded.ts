/** Encoded sound formats that are kept as they are and decoded when a project opens. */
export const ENCODED_FORMATS = {
  ogg: { label: "OGG", type: "audio/ogg", extensions: [".ogg", ".oga", ".opus"] },
  flac: { label: "FLAC", type: "audio/flac", extensions: [".flac"] },
  mp3: { label: "MP3", type: "audio/mpeg", extensions: [".mp3"] },
  mp4: { label: "M4A", type: "audio/mp4", extensions: [".m4a", ".mp4", ".aac"] },
  webm: { label: "WebM", type: "audio/webm", extensions: [".webm"] },
} as const;
export type EncodedFormat = keyof typeof ENCODED_FORMATS;

const startsWith = (bytes: Uint8Array, text: string, at = 0) =>
  [...text].every((letter, i) => bytes[at + i] === letter.charCodeAt(0));

/** The format that some bytes begin as: by their signature, whatever the file is called. */
export function encodedFormatOf(bytes: Uint8Array): EncodedFormat | undefined {
  if (startsWith(bytes, "OggS")) return "ogg";
  if (startsWith(bytes, "fLaC")) return "flac";
  if (startsWith(bytes, "ID3")) return "mp3";
  if (startsWith(bytes, "ftyp", 4)) return "mp4";
  if (bytes[0] === 0x1a && bytes[1] === 0x45 && bytes[2] === 0xdf && bytes[3] === 0xa3) return "webm";
  // A frame of MPEG audio begins with eleven ones; layer 3, or AAC in a transport stream, whose layer bits are 0.
  if (bytes[0] === 0xff && (bytes[1] & 0xe0) === 0xe0) {
    const layer = (bytes[1] >> 1) & 3;
    if (layer === 1) return "mp3";
    if (layer === 0) return "mp4";
  }
  return undefined;
}
