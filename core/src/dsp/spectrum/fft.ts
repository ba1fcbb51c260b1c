import { platform } from "../../platform";
import { FFT_MODULE } from "./fftModule";

let compiled: object | undefined;

/** Compiled once; it is small enough to be compiled at once everywhere. */
function compile(): object {
  compiled ??= new platform.WebAssembly.Module(
    Uint8Array.from(FFT_MODULE.match(/../g)!, (byte) => Number.parseInt(byte, 16)),
  );
  return compiled;
}

/** Smallest transform: four rows of four points. */
export const LEAST_FFT_SIZE = 32;
const PAGE_BYTES = 65_536;
const FIRST_BYTE = 1024;

/**
 * Discrete Fourier transform of windowed real input, in single precision and four points at a time.
 *
 * A real transform of `size` points is one complex transform of half the points (even samples as real part, odd
 * as imaginary) and an untangling pass (Sorensen et al. 1987). The complex one is made of four interleaved
 * transforms that run side by side, Stockham's order with radix-4 butterflies, and one more pass that joins them.
 * The loops stand in `core/wasm/fft.ts`. Errors are about 1e-7 of the largest bin.
 *
 * Keep one per size and window: it owns tables and scratch space, so transforming allocates nothing.
 */
export class RealFft {
  readonly size: number;
  /** Bins of a result: `size / 2 + 1`, DC to Nyquist. */
  readonly binCount: number;
  private readonly transforms: Record<string, (...places: number[]) => void>;
  /** Byte offsets of input, window, size, tables and scratch space, as the transforms take them. */
  private readonly places: number[];
  private readonly input: Float32Array;
  private readonly first: Float32Array;
  private readonly second: Float32Array;

  /**
   * @param size  number of real points, a power of two from 32
   * @param window  `size` weights; none leaves the input as it is
   * @throws RangeError for any other size
   */
  constructor(size: number, window?: Float64Array) {
    if (!Number.isInteger(size) || size < LEAST_FFT_SIZE || (size & (size - 1)) !== 0) {
      throw new RangeError(`FFT size must be a power of two of at least ${LEAST_FFT_SIZE}, not ${size}`);
    }
    this.size = size;
    this.binCount = size / 2 + 1;
    const half = size / 2;
    const tables = [
      window ?? new Float64Array(size).fill(1),
      passTwiddles(half / 4),
      joining(half),
      untangling(size),
    ];
    // Input, window, the tables, two halves of scratch, the complex points, and two results with room for a last bin.
    const floats = [size, ...tables.map(({ length }) => length), size, size, half, half, half + 4, half + 4];
    const offsets: number[] = [];
    let end = FIRST_BYTE;
    for (const count of floats) {
      offsets.push(end);
      end += Math.ceil(count / 4) * 16;
    }
    const memory = new platform.WebAssembly.Memory({ initial: Math.ceil(end / PAGE_BYTES) });
    this.transforms = new platform.WebAssembly.Instance(compile(), { env: { memory } }).exports;
    tables.forEach((table, i) => {
      new Float32Array(memory.buffer, offsets[i + 1], table.length).set(table);
    });
    const [input, ...rest] = offsets;
    this.places = [input, rest[0], size, ...rest.slice(1)];
    this.input = new Float32Array(memory.buffer, input, size);
    [this.first, this.second] = offsets.slice(-2).map((at) => new Float32Array(memory.buffer, at, half + 1));
  }

  /**
   * Transforms `input · window`.
   *
   * @param input  `size` real samples; read, not changed
   * @param re  `binCount` real parts out, not scaled
   * @param im  `binCount` imaginary parts out, not scaled
   */
  forward(input: ArrayLike<number>, re: Float64Array | Float32Array, im: Float64Array | Float32Array): void {
    this.input.set(input);
    const [a, b, c, d, e, f, g, h, i, j, k, l] = this.places;
    this.transforms.bins(a, b, c, d, e, f, g, h, i, j, k, l);
    re.set(this.first);
    im.set(this.second);
  }

  /**
   * Squared magnitudes of the bins of `input · window`.
   *
   * @param samples  the frame is `size` of them from `first`; those before 0 and after the end count as 0
   * @param scale  every inner bin's |X|² is multiplied by this; DC and Nyquist by half of it
   * @returns `binCount` powers; they are valid until the next call
   */
  power(samples: Float32Array, first: number, scale: number): Float32Array {
    const { size, input } = this;
    if (first >= 0 && first + size <= samples.length) {
      input.set(samples.subarray(first, first + size));
    } else {
      const from = Math.max(0, first);
      const to = Math.min(samples.length, first + size);
      input.fill(0);
      if (to > from) input.set(samples.subarray(from, to), from - first);
    }
    const [a, b, c, d, e, f, g, h, i, j, k] = this.places;
    this.transforms.power(a, b, c, d, e, f, g, h, i, j, k, scale);
    return this.first;
  }
}

/** For each radix-4 pass over `n` points and each p below n/4: cos and sin of −2πp/n, twice and three times that. */
function passTwiddles(row: number): Float64Array {
  const out: number[] = [];
  for (let n = row; n > 2; n /= 4) {
    for (let p = 0; p < n / 4; p++) {
      for (let times = 1; times <= 3; times++) {
        const angle = (-2 * Math.PI * p * times) / n;
        out.push(Math.cos(angle), Math.sin(angle));
      }
    }
  }
  return Float64Array.from(out);
}

/** For each four k below half/4 and r = 1, 2, 3: four cosines and four sines of −2πrk/half. */
function joining(half: number): Float64Array {
  const out = new Float64Array((half / 4) * 6);
  for (let k = 0; k < half / 4; k++) {
    for (let r = 1; r <= 3; r++) {
      const at = (k >> 2) * 24 + (r - 1) * 8 + (k & 3);
      out[at] = Math.cos((-2 * Math.PI * r * k) / half);
      out[at + 4] = Math.sin((-2 * Math.PI * r * k) / half);
    }
  }
  return out;
}

/** For each four k from 1 to size/4: four cosines and four sines of −2πk/size. */
function untangling(size: number): Float64Array {
  const out = new Float64Array(size / 2);
  for (let k = 1; k <= size / 4; k++) {
    const at = ((k - 1) >> 2) * 8 + ((k - 1) & 3);
    out[at] = Math.cos((-2 * Math.PI * k) / size);
    out[at + 4] = Math.sin((-2 * Math.PI * k) / size);
  }
  return out;
}
