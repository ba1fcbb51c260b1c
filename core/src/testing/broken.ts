import { seededRandom } from "../dsp/maths/random";

const ODD = [
  "(",
  ")",
  "{",
  "}",
  ";",
  "=",
  "*",
  "vec3",
  "0.0",
  "1e40",
  '"',
  "//",
  "/*",
  "#",
  "\\",
  "\u0000",
  "é",
  "for(;;)",
  "uniform",
  "const ",
  "let ",
  "=>",
  "`",
];

/** Code with some characters taken out, doubled, swapped or put in; the same for the same seed. */
export function broken(code: string, seed: number): string {
  const random = seededRandom(seed);
  const whole = (most: number) => Math.floor(random() * most);
  let out = code;
  for (let times = 1 + whole(3); times > 0; times--) {
    const at = whole(out.length);
    const length = 1 + whole(random() < 0.2 ? 60 : 4);
    const piece = out.slice(at, at + length);
    const rest = out.slice(at + length);
    switch (whole(4)) {
      case 0:
        out = out.slice(0, at) + rest;
        break;
      case 1:
        out = out.slice(0, at) + piece + piece + rest;
        break;
      case 2:
        out = out.slice(0, at) + [...piece].reverse().join("") + rest;
        break;
      default:
        out = out.slice(0, at) + ODD[whole(ODD.length)] + out.slice(at);
    }
  }
  return out;
}
