/**
 * Discrete Fourier transform of real input.
 *
 * A real transform of `size` points is one complex transform of half the points (even samples as real
 * part, odd as imaginary) and an untangling pass. The complex transform is decimation in time with
 * radix-4 butterflies, and one radix-2 pass when the half size is an odd power of two
 * (Cooley & Tukey 1965; untangling as in Sorensen et al. 1987).
 */
export class RealFft {
  readonly size: number;
  /** Bins of a result: `size / 2 + 1`, DC to Nyquist. */
  readonly binCount: number;
  private readonly half: number;
  private readonly reversed: Uint32Array;
  private readonly stages: { span: number; twiddles: Float64Array }[] = [];
  private readonly startsWithPairs: boolean;
  private readonly untangle: Float64Array;
  private readonly ones: Float64Array;
  private readonly re: Float64Array;
  private readonly im: Float64Array;

  /**
   * @param size  number of real points, a power of two from 8
   * @throws RangeError for any other size
   */
  constructor(size: number) {
    if (!Number.isInteger(size) || size < 8 || (size & (size - 1)) !== 0) {
      throw new RangeError(`FFT size must be a power of two of at least 8, not ${size}`);
    }
    this.size = size;
    const half = size / 2;
    this.half = half;
    this.binCount = half + 1;
    this.ones = new Float64Array(size).fill(1);
    this.re = new Float64Array(half);
    this.im = new Float64Array(half);
    const bits = Math.log2(half);
    this.startsWithPairs = bits % 2 === 1;
    this.reversed = new Uint32Array(half);
    for (let i = 0; i < half; i++) {
      this.reversed[i] = (this.reversed[i >> 1] >> 1) | ((i & 1) << (bits - 1));
    }
    for (let span = this.startsWithPairs ? 2 : 4; span < half; span *= 4) {
      const twiddles = new Float64Array(span * 6);
      for (let k = 0; k < span; k++) {
        for (let m = 1; m <= 3; m++) {
          const angle = (-2 * Math.PI * k * m) / (4 * span);
          twiddles[k * 6 + (m - 1) * 2] = Math.cos(angle);
          twiddles[k * 6 + (m - 1) * 2 + 1] = Math.sin(angle);
        }
      }
      this.stages.push({ span, twiddles });
    }
    this.untangle = new Float64Array(half + 2);
    for (let k = 0; k <= half / 2; k++) {
      this.untangle[2 * k] = Math.cos((2 * Math.PI * k) / size);
      this.untangle[2 * k + 1] = -Math.sin((2 * Math.PI * k) / size);
    }
  }

  /**
   * Transforms `input`.
   *
   * @param input  at least `size` real samples; read, not changed
   * @param re  `binCount` real parts out, not scaled
   * @param im  `binCount` imaginary parts out, not scaled
   */
  forward(input: ArrayLike<number>, re: Float64Array, im: Float64Array): void {
    this.load(input, 0, this.ones);
    this.runStages();
    const { half, re: zr, im: zi, untangle } = this;
    re[0] = zr[0] + zi[0];
    im[0] = 0;
    re[half] = zr[0] - zi[0];
    im[half] = 0;
    for (let k = 1, j = half - 1; k <= j; k++, j--) {
      const er = 0.5 * (zr[k] + zr[j]);
      const ei = 0.5 * (zi[k] - zi[j]);
      const dr = 0.5 * (zi[k] + zi[j]);
      const di = -0.5 * (zr[k] - zr[j]);
      const wr = untangle[2 * k];
      const wi = untangle[2 * k + 1];
      const tr = dr * wr - di * wi;
      const ti = dr * wi + di * wr;
      re[k] = er + tr;
      im[k] = ei + ti;
      re[j] = er - tr;
      im[j] = ti - ei;
    }
  }

  /**
   * Squared magnitudes of the transform of `input · window`, in one go.
   *
   * @param input  samples; the frame is `size` of them from `offset`
   * @param offset  index of the frame's first sample; the frame must lie inside `input`
   * @param window  `size` weights
   * @param scale  every inner bin's |X|² is multiplied by this; DC and Nyquist by half of it
   * @param out  powers are written from `outOffset`, `binCount` of them
   * @param firstBin  first bin that is wanted; others may be left unwritten
   * @param lastBin  last bin that is wanted
   */
  power(
    input: Float32Array,
    offset: number,
    window: Float64Array,
    scale: number,
    out: Float32Array | Float64Array,
    outOffset: number,
    firstBin = 0,
    lastBin = this.half,
  ): void {
    this.load(input, offset, window);
    this.runStages();
    const { half, re: zr, im: zi, untangle } = this;
    const dc = zr[0] + zi[0];
    const nyquist = zr[0] - zi[0];
    out[outOffset] = dc * dc * scale * 0.5;
    out[outOffset + half] = nyquist * nyquist * scale * 0.5;
    const quarter = 0.25 * scale;
    // Each step gives a bin of the lower half and its mirror in the upper: one half is enough for a band in either.
    const middle = half / 2;
    const from = Math.max(1, lastBin <= middle ? firstBin : firstBin >= middle ? half - lastBin : 1);
    const to = lastBin <= middle ? lastBin : firstBin >= middle ? half - firstBin : middle;
    for (let k = from, j = half - from; k <= to; k++, j--) {
      const er = zr[k] + zr[j];
      const ei = zi[k] - zi[j];
      const dr = zi[k] + zi[j];
      const di = zr[j] - zr[k];
      const wr = untangle[2 * k];
      const wi = untangle[2 * k + 1];
      const tr = dr * wr - di * wi;
      const ti = dr * wi + di * wr;
      const ar = er + tr;
      const ai = ei + ti;
      const br = er - tr;
      const bi = ei - ti;
      out[outOffset + k] = (ar * ar + ai * ai) * quarter;
      out[outOffset + j] = (br * br + bi * bi) * quarter;
    }
  }

  /** Brings `input · window` into bit-reversed order, and merges pairs or fours on the way. */
  private load(input: ArrayLike<number>, offset: number, window: Float64Array): void {
    const { half, reversed, re, im } = this;
    if (this.startsWithPairs) {
      for (let i = 0; i < half; i += 2) {
        const a = reversed[i] * 2;
        const b = reversed[i + 1] * 2;
        const ar = input[offset + a] * window[a];
        const ai = input[offset + a + 1] * window[a + 1];
        const br = input[offset + b] * window[b];
        const bi = input[offset + b + 1] * window[b + 1];
        re[i] = ar + br;
        im[i] = ai + bi;
        re[i + 1] = ar - br;
        im[i + 1] = ai - bi;
      }
      return;
    }
    const apart = half / 2;
    for (let i = 0; i < half; i += 4) {
      // Four neighbours in bit-reversed order lie a quarter of the input apart: 0, 2, 1, 3.
      const a = reversed[i] * 2;
      const b = a + 2 * apart;
      const c = a + apart;
      const d = c + 2 * apart;
      const ar = input[offset + a] * window[a];
      const ai = input[offset + a + 1] * window[a + 1];
      const br = input[offset + b] * window[b];
      const bi = input[offset + b + 1] * window[b + 1];
      const cr = input[offset + c] * window[c];
      const ci = input[offset + c + 1] * window[c + 1];
      const dr = input[offset + d] * window[d];
      const di = input[offset + d + 1] * window[d + 1];
      const sumR = ar + br;
      const sumI = ai + bi;
      const differenceR = ar - br;
      const differenceI = ai - bi;
      const oddSumR = cr + dr;
      const oddSumI = ci + di;
      const oddDifferenceR = cr - dr;
      const oddDifferenceI = ci - di;
      re[i] = sumR + oddSumR;
      im[i] = sumI + oddSumI;
      re[i + 1] = differenceR + oddDifferenceI;
      im[i + 1] = differenceI - oddDifferenceR;
      re[i + 2] = sumR - oddSumR;
      im[i + 2] = sumI - oddSumI;
      re[i + 3] = differenceR - oddDifferenceI;
      im[i + 3] = differenceI + oddDifferenceR;
    }
  }

  /** Merges four neighbouring transforms of `span` points into one, until one is left. */
  private runStages(): void {
    const { half, re, im } = this;
    for (const { span, twiddles } of this.stages) {
      for (let block = 0; block < half; block += 4 * span) {
        let i0 = block;
        let i1 = block + span;
        let i2 = i1 + span;
        let i3 = i2 + span;
        for (let t = 0; t < 6 * span; t += 6, i0++, i1++, i2++, i3++) {
          // Bit reversal leaves the sub-transforms in the order 0, 2, 1, 3.
          const xr = re[i2];
          const xi = im[i2];
          const b1r = xr * twiddles[t] - xi * twiddles[t + 1];
          const b1i = xr * twiddles[t + 1] + xi * twiddles[t];
          const yr = re[i1];
          const yi = im[i1];
          const b2r = yr * twiddles[t + 2] - yi * twiddles[t + 3];
          const b2i = yr * twiddles[t + 3] + yi * twiddles[t + 2];
          const ur = re[i3];
          const ui = im[i3];
          const b3r = ur * twiddles[t + 4] - ui * twiddles[t + 5];
          const b3i = ur * twiddles[t + 5] + ui * twiddles[t + 4];
          const ar = re[i0];
          const ai = im[i0];
          const evenSumR = ar + b2r;
          const evenSumI = ai + b2i;
          const evenDifferenceR = ar - b2r;
          const evenDifferenceI = ai - b2i;
          const oddSumR = b1r + b3r;
          const oddSumI = b1i + b3i;
          const oddDifferenceR = b1r - b3r;
          const oddDifferenceI = b1i - b3i;
          re[i0] = evenSumR + oddSumR;
          im[i0] = evenSumI + oddSumI;
          re[i1] = evenDifferenceR + oddDifferenceI;
          im[i1] = evenDifferenceI - oddDifferenceR;
          re[i2] = evenSumR - oddSumR;
          im[i2] = evenSumI - oddSumI;
          re[i3] = evenDifferenceR - oddDifferenceI;
          im[i3] = evenDifferenceI + oddDifferenceR;
        }
      }
    }
  }
}
