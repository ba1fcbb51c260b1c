import { fromBase64, toBase64 } from "../../format/bytes/base64";
import { POSE_PARTS, POSE_UNITS, type PoseChange, PoseTrack, restingPose } from "./poses";

/**
 * Poses over time as Base64: for each change the steps since the one before, a byte that says which numbers changed, and by
 * how much, each as a zigzag varint.
 */
export function posesAsText(track: PoseTrack): string {
  const bytes: number[] = [];
  const varint = (value: number) => {
    let rest = value;
    while (rest > 127) {
      bytes.push((rest & 127) | 128);
      rest = Math.floor(rest / 128);
    }
    bytes.push(rest);
  };
  let before: PoseChange = { step: 0, numbers: new Int32Array(POSE_PARTS.length) };
  for (const change of track.changes()) {
    varint(change.step - before.step);
    const by = [...change.numbers].map((value, k) => value - before.numbers[k]);
    bytes.push(by.reduce((mask, one, k) => mask | (one !== 0 ? 1 << k : 0), 0));
    for (const one of by) if (one !== 0) varint(one < 0 ? -2 * one - 1 : 2 * one);
    before = change;
  }
  return toBase64(Uint8Array.from(bytes));
}

/**
 * Reads what {@link posesAsText} wrote.
 *
 * @throws RangeError when the text is cut off or no Base64
 */
export function posesFromText(text: string): PoseTrack {
  const bytes = fromBase64(text);
  const track = new PoseTrack();
  const values = new Int32Array(POSE_PARTS.length);
  let at = 0;
  let step = 0;
  const byte = () => {
    if (at >= bytes.length) throw new RangeError("the poses are cut off");
    return bytes[at++];
  };
  const varint = () => {
    let value = 0;
    for (let scale = 1; ; scale *= 128) {
      const next = byte();
      value += (next & 127) * scale;
      if (next < 128) return value;
      if (scale > 2 ** 35) throw new RangeError("the poses are damaged");
    }
  };
  const pose = restingPose();
  while (at < bytes.length) {
    step += varint();
    const mask = byte();
    for (const [k, part] of POSE_PARTS.entries()) {
      if (mask & (1 << k)) {
        const coded = varint();
        values[k] += coded % 2 === 1 ? -(coded + 1) / 2 : coded / 2;
      }
      pose[part] = values[k] * POSE_UNITS[part];
    }
    track.record(step, pose);
  }
  return track;
}
