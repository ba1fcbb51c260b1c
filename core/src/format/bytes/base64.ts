import { platform } from "../../platform";

/** Characters joined at once: more would be too many arguments of a call. */
const CHUNK = 8192;

export function toBase64(bytes: Uint8Array): string {
  let text = "";
  for (let at = 0; at < bytes.length; at += CHUNK) {
    text += String.fromCharCode(...bytes.subarray(at, at + CHUNK));
  }
  return platform.btoa(text);
}

/** @throws RangeError for a text that is no Base64 */
export function fromBase64(text: string): Uint8Array {
  let binary: string;
  try {
    binary = platform.atob(text);
  } catch {
    throw new RangeError("the text is no Base64");
  }
  const bytes = new Uint8Array(binary.length);
  for (let i = 0; i < binary.length; i++) bytes[i] = binary.charCodeAt(i);
  return bytes;
}
