/**
 * The transform at the bottom of every spectrum, four numbers at a time. Written in AssemblyScript, which is
 * compiled to WebAssembly: `npm run wasm` writes `core/src/dsp/spectrum/fftModule.ts`.
 *
 * Pointers are bytes into the module's memory, which `RealFft` lays out. For a transform of `size` real points,
 * `half = size / 2` complex points z[m] = x[2m] + i·x[2m + 1] are seen as four interleaved rows of
 * `row = half / 4` points, one a lane: their transforms need no shuffling (Stockham, radix 4). One pass of
 * radix-4 butterflies across the lanes joins the rows, and an untangling pass gives the bins of the real input.
 */

/** Bytes of one point of all four rows: four real parts, four imaginary parts. */
const POINT: usize = 32;

/**
 * Transforms `input · window` into `half` complex points, real parts at `outRe`, imaginary ones at `outIm`.
 *
 * @param twiddles  for each pass and p: cos and sin of −2πp/n, −4πp/n, −6πp/n
 * @param joining  for each four k: cos and sin of −2πrk/half for r = 1, 2, 3, four each
 * @param a  scratch of `row` points
 * @param b  scratch of `row` points
 */
function complexPoints(
  input: usize,
  window: usize,
  row: i32,
  twiddles: usize,
  joining: usize,
  a: usize,
  b: usize,
  outRe: usize,
  outIm: usize,
): void {
  // First pass, straight from the windowed input.
  let quarter = row >> 2;
  const step = <usize>quarter * POINT;
  let from = input;
  let weights = window;
  let to = a;
  for (let p = 0; p < quarter; p++) {
    const u0 = f32x4.mul(v128.load(from), v128.load(weights));
    const u1 = f32x4.mul(v128.load(from, 16), v128.load(weights, 16));
    const ar = v128.shuffle<f32>(u0, u1, 0, 2, 4, 6);
    const ai = v128.shuffle<f32>(u0, u1, 1, 3, 5, 7);
    const v0 = f32x4.mul(v128.load(from + step), v128.load(weights + step));
    const v1 = f32x4.mul(v128.load(from + step, 16), v128.load(weights + step, 16));
    const br = v128.shuffle<f32>(v0, v1, 0, 2, 4, 6);
    const bi = v128.shuffle<f32>(v0, v1, 1, 3, 5, 7);
    const w0 = f32x4.mul(v128.load(from + 2 * step), v128.load(weights + 2 * step));
    const w1 = f32x4.mul(v128.load(from + 2 * step, 16), v128.load(weights + 2 * step, 16));
    const cr = v128.shuffle<f32>(w0, w1, 0, 2, 4, 6);
    const ci = v128.shuffle<f32>(w0, w1, 1, 3, 5, 7);
    const x0 = f32x4.mul(v128.load(from + 3 * step), v128.load(weights + 3 * step));
    const x1 = f32x4.mul(v128.load(from + 3 * step, 16), v128.load(weights + 3 * step, 16));
    const dr = v128.shuffle<f32>(x0, x1, 0, 2, 4, 6);
    const di = v128.shuffle<f32>(x0, x1, 1, 3, 5, 7);
    butterfly(ar, ai, br, bi, cr, ci, dr, di, twiddles, to, POINT);
    from += POINT;
    weights += POINT;
    to += 4 * POINT;
    twiddles += 24;
  }
  let x = a;
  let y = b;
  let n = quarter;
  let s = 4;
  while (n > 2) {
    quarter = n >> 2;
    const width = <usize>s * POINT;
    const apart = <usize>quarter * width;
    let read = x;
    let write = y;
    for (let p = 0; p < quarter; p++) {
      for (let q = 0; q < s; q++) {
        const at = read + apart;
        const at2 = at + apart;
        const at3 = at2 + apart;
        butterfly(
          v128.load(read),
          v128.load(read, 16),
          v128.load(at),
          v128.load(at, 16),
          v128.load(at2),
          v128.load(at2, 16),
          v128.load(at3),
          v128.load(at3, 16),
          twiddles,
          write,
          width,
        );
        read += POINT;
        write += POINT;
      }
      write += 3 * width;
      twiddles += 24;
    }
    const swapped = x;
    x = y;
    y = swapped;
    n = quarter;
    s <<= 2;
  }
  if (n == 2) {
    const width = <usize>s * POINT;
    for (let q: usize = 0; q < width; q += 16) {
      const first = v128.load(x + q);
      const second = v128.load(x + q + width);
      v128.store(y + q, f32x4.add(first, second));
      v128.store(y + q + width, f32x4.sub(first, second));
    }
    x = y;
  }
  // The four rows become one transform: rows lie across the lanes, so each four points are turned on their side.
  const rowBytes = (<usize>row) << 2;
  for (let k = 0; k < row; k += 4) {
    const r0 = v128.load(x),
      i0 = v128.load(x, 16);
    const r1 = v128.load(x, 32),
      i1 = v128.load(x, 48);
    const r2 = v128.load(x, 64),
      i2 = v128.load(x, 80);
    const r3 = v128.load(x, 96),
      i3 = v128.load(x, 112);
    const ra = v128.shuffle<f32>(r0, r1, 0, 4, 1, 5),
      rb = v128.shuffle<f32>(r2, r3, 0, 4, 1, 5);
    const rc = v128.shuffle<f32>(r0, r1, 2, 6, 3, 7),
      rd = v128.shuffle<f32>(r2, r3, 2, 6, 3, 7);
    const ia = v128.shuffle<f32>(i0, i1, 0, 4, 1, 5),
      ib = v128.shuffle<f32>(i2, i3, 0, 4, 1, 5);
    const ic = v128.shuffle<f32>(i0, i1, 2, 6, 3, 7),
      id = v128.shuffle<f32>(i2, i3, 2, 6, 3, 7);
    const ar = v128.shuffle<f32>(ra, rb, 0, 1, 4, 5),
      ai = v128.shuffle<f32>(ia, ib, 0, 1, 4, 5);
    const pr = v128.shuffle<f32>(ra, rb, 2, 3, 6, 7),
      pi = v128.shuffle<f32>(ia, ib, 2, 3, 6, 7);
    const qr = v128.shuffle<f32>(rc, rd, 0, 1, 4, 5),
      qi = v128.shuffle<f32>(ic, id, 0, 1, 4, 5);
    const sr = v128.shuffle<f32>(rc, rd, 2, 3, 6, 7),
      si = v128.shuffle<f32>(ic, id, 2, 3, 6, 7);
    const c1 = v128.load(joining),
      s1 = v128.load(joining, 16);
    const c2 = v128.load(joining, 32),
      s2 = v128.load(joining, 48);
    const c3 = v128.load(joining, 64),
      s3 = v128.load(joining, 80);
    const br = f32x4.sub(f32x4.mul(pr, c1), f32x4.mul(pi, s1)),
      bi = f32x4.add(f32x4.mul(pr, s1), f32x4.mul(pi, c1));
    const cr = f32x4.sub(f32x4.mul(qr, c2), f32x4.mul(qi, s2)),
      ci = f32x4.add(f32x4.mul(qr, s2), f32x4.mul(qi, c2));
    const dr = f32x4.sub(f32x4.mul(sr, c3), f32x4.mul(si, s3)),
      di = f32x4.add(f32x4.mul(sr, s3), f32x4.mul(si, c3));
    const apcR = f32x4.add(ar, cr),
      apcI = f32x4.add(ai, ci);
    const amcR = f32x4.sub(ar, cr),
      amcI = f32x4.sub(ai, ci);
    const bpdR = f32x4.add(br, dr),
      bpdI = f32x4.add(bi, di);
    const bmdR = f32x4.sub(br, dr),
      bmdI = f32x4.sub(bi, di);
    v128.store(outRe, f32x4.add(apcR, bpdR));
    v128.store(outIm, f32x4.add(apcI, bpdI));
    v128.store(outRe + rowBytes, f32x4.add(amcR, bmdI));
    v128.store(outIm + rowBytes, f32x4.sub(amcI, bmdR));
    v128.store(outRe + 2 * rowBytes, f32x4.sub(apcR, bpdR));
    v128.store(outIm + 2 * rowBytes, f32x4.sub(apcI, bpdI));
    v128.store(outRe + 3 * rowBytes, f32x4.sub(amcR, bmdI));
    v128.store(outIm + 3 * rowBytes, f32x4.add(amcI, bmdR));
    x += 4 * POINT;
    joining += 96;
    outRe += 16;
    outIm += 16;
  }
}

// @ts-ignore: a decorator of AssemblyScript
@inline
function butterfly(
  ar: v128,
  ai: v128,
  br: v128,
  bi: v128,
  cr: v128,
  ci: v128,
  dr: v128,
  di: v128,
  twiddles: usize,
  to: usize,
  apart: usize,
): void {
  const apcR = f32x4.add(ar, cr),
    apcI = f32x4.add(ai, ci);
  const amcR = f32x4.sub(ar, cr),
    amcI = f32x4.sub(ai, ci);
  const bpdR = f32x4.add(br, dr),
    bpdI = f32x4.add(bi, di);
  const bmdR = f32x4.sub(br, dr),
    bmdI = f32x4.sub(bi, di);
  v128.store(to, f32x4.add(apcR, bpdR));
  v128.store(to, f32x4.add(apcI, bpdI), 16);
  turn(f32x4.add(amcR, bmdI), f32x4.sub(amcI, bmdR), twiddles, to + apart);
  turn(f32x4.sub(apcR, bpdR), f32x4.sub(apcI, bpdI), twiddles + 8, to + 2 * apart);
  turn(f32x4.sub(amcR, bmdI), f32x4.add(amcI, bmdR), twiddles + 16, to + 3 * apart);
}

// @ts-ignore: a decorator of AssemblyScript
@inline
function turn(re: v128, im: v128, twiddle: usize, to: usize): void {
  const c = v128.load32_splat(twiddle);
  const s = v128.load32_splat(twiddle, 4);
  v128.store(to, f32x4.sub(f32x4.mul(re, c), f32x4.mul(im, s)));
  v128.store(to, f32x4.add(f32x4.mul(re, s), f32x4.mul(im, c)), 16);
}

/**
 * Squared magnitudes of the bins of `input · window`: inner bins times `scale`, DC and Nyquist times half of it.
 *
 * @param size  real points
 * @param untangling  for each four k from 1: cos and sin of −2πk/size, four each
 * @param out  `size / 2 + 1` powers
 */
export function power(
  input: usize,
  window: usize,
  size: i32,
  twiddles: usize,
  joining: usize,
  untangling: usize,
  a: usize,
  b: usize,
  re: usize,
  im: usize,
  out: usize,
  scale: f32,
): void {
  complexPoints(input, window, size >> 3, twiddles, joining, a, b, re, im);
  const halfBytes = (<usize>size) << 1;
  const dc = load<f32>(re) + load<f32>(im);
  const nyquist = load<f32>(re) - load<f32>(im);
  store<f32>(out, dc * dc * scale * 0.5);
  store<f32>(out + halfBytes, nyquist * nyquist * scale * 0.5);
  const share = f32x4.splat(scale * 0.25);
  const middle = halfBytes >> 1;
  for (let k: usize = 4; k < middle + 4; k += 16) {
    // Bin k and its mirror: four of them upwards, and the four mirrors downwards.
    const j = halfBytes - k - 12;
    const zr = v128.load(re + k),
      zi = v128.load(im + k);
    const mirrorR = v128.load(re + j),
      mirrorI = v128.load(im + j);
    const yr = v128.shuffle<f32>(mirrorR, mirrorR, 3, 2, 1, 0),
      yi = v128.shuffle<f32>(mirrorI, mirrorI, 3, 2, 1, 0);
    const er = f32x4.add(zr, yr),
      ei = f32x4.sub(zi, yi);
    const dr = f32x4.add(zi, yi),
      di = f32x4.sub(yr, zr);
    const c = v128.load(untangling),
      s = v128.load(untangling, 16);
    const tr = f32x4.sub(f32x4.mul(dr, c), f32x4.mul(di, s)),
      ti = f32x4.add(f32x4.mul(dr, s), f32x4.mul(di, c));
    const pr = f32x4.add(er, tr),
      pi = f32x4.add(ei, ti);
    const qr = f32x4.sub(er, tr),
      qi = f32x4.sub(ei, ti);
    const high = f32x4.mul(f32x4.add(f32x4.mul(qr, qr), f32x4.mul(qi, qi)), share);
    v128.store(out + j, v128.shuffle<f32>(high, high, 3, 2, 1, 0));
    v128.store(out + k, f32x4.mul(f32x4.add(f32x4.mul(pr, pr), f32x4.mul(pi, pi)), share));
    untangling += 32;
  }
}

/** The bins of `input · window` themselves: `size / 2 + 1` real parts at `outRe`, imaginary ones at `outIm`. */
export function bins(
  input: usize,
  window: usize,
  size: i32,
  twiddles: usize,
  joining: usize,
  untangling: usize,
  a: usize,
  b: usize,
  re: usize,
  im: usize,
  outRe: usize,
  outIm: usize,
): void {
  complexPoints(input, window, size >> 3, twiddles, joining, a, b, re, im);
  const halfBytes = (<usize>size) << 1;
  store<f32>(outRe, load<f32>(re) + load<f32>(im));
  store<f32>(outIm, 0);
  store<f32>(outRe + halfBytes, load<f32>(re) - load<f32>(im));
  store<f32>(outIm + halfBytes, 0);
  const half = f32x4.splat(0.5);
  const middle = halfBytes >> 1;
  for (let k: usize = 4; k < middle + 4; k += 16) {
    const j = halfBytes - k - 12;
    const zr = v128.load(re + k),
      zi = v128.load(im + k);
    const mirrorR = v128.load(re + j),
      mirrorI = v128.load(im + j);
    const yr = v128.shuffle<f32>(mirrorR, mirrorR, 3, 2, 1, 0),
      yi = v128.shuffle<f32>(mirrorI, mirrorI, 3, 2, 1, 0);
    const er = f32x4.add(zr, yr),
      ei = f32x4.sub(zi, yi);
    const dr = f32x4.add(zi, yi),
      di = f32x4.sub(yr, zr);
    const c = v128.load(untangling),
      s = v128.load(untangling, 16);
    const tr = f32x4.sub(f32x4.mul(dr, c), f32x4.mul(di, s)),
      ti = f32x4.add(f32x4.mul(dr, s), f32x4.mul(di, c));
    const qr = f32x4.mul(f32x4.sub(er, tr), half),
      qi = f32x4.mul(f32x4.sub(ti, ei), half);
    v128.store(outRe + j, v128.shuffle<f32>(qr, qr, 3, 2, 1, 0));
    v128.store(outIm + j, v128.shuffle<f32>(qi, qi, 3, 2, 1, 0));
    v128.store(outRe + k, f32x4.mul(f32x4.add(er, tr), half));
    v128.store(outIm + k, f32x4.mul(f32x4.add(ei, ti), half));
    untangling += 32;
  }
}
