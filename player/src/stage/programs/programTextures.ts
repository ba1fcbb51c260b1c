import type { Scene } from "@bumbrel/core/document/scene";
import { type ChangedRows, type NumberSource, ProgramNumbers } from "@bumbrel/core/evaluate/programNumbers";
import { MEMORY_COLUMNS, MEMORY_ROWS, MOST_SOUNDS, WAVE_SAMPLES } from "@bumbrel/core/program/offers/memory";

import { DataTexture, FloatType, NearestFilter, RGBAFormat } from "three";

/** Four numbers lie in each pixel: three.js sends parts of such textures only. */
const PER_PIXEL = 4;
/** More rows than this are sent as a whole. */
const MOST_ROWS_APART = 64;

function floats(data: Float32Array, width: number, height: number): DataTexture {
  const values = data as Float32Array<ArrayBuffer>;
  const texture = new DataTexture(values, width / PER_PIXEL, height, RGBAFormat, FloatType);
  texture.magFilter = NearestFilter;
  texture.minFilter = NearestFilter;
  texture.needsUpdate = true;
  return texture;
}

const NOTHING = floats(new Float32Array(PER_PIXEL), PER_PIXEL, 1);

/** The numbers that programs read, as textures that all of them share; only rows that changed are sent. */
export class ProgramTextures {
  readonly numbers = new ProgramNumbers();
  readonly uniforms = {
    time: { value: 0 },
    numbersMap: { value: NOTHING },
    bandsMap: { value: NOTHING },
    spectrumMap0: { value: NOTHING },
    spectrumMap1: { value: NOTHING },
    wavesMap: { value: NOTHING },
  };
  /** Rows that the last fill has changed, and how many fills and layouts there have been. */
  changed: ChangedRows = [];
  fills = 0;
  layouts = 0;
  private scene: Scene | undefined;
  private readonly widths: number[] = [];
  /** Textures that have been sent whole. */
  private sent = new WeakSet<DataTexture>();

  /** Follows the scene and brings all numbers to a time. */
  fill(scene: Scene, source: NumberSource): void {
    const { numbers, uniforms } = this;
    uniforms.time.value = source.timeS;
    if (scene.programs.length === 0) return;
    const widthOf = (id: string) => source.trackOf(id)?.width ?? 1;
    let isOther = scene !== this.scene;
    this.scene = scene;
    // Widths are known once tracks have come, and change with a strand's bands.
    scene.strands.forEach(({ id }, i) => {
      const width = widthOf(id);
      if (this.widths[i] !== width) isOther = true;
      this.widths[i] = width;
    });
    if (isOther && numbers.layOut(scene, widthOf)) {
      this.remake();
      this.layouts++;
    }
    if (!numbers.isRead) return;
    const changed = numbers.fill(source);
    this.changed = changed;
    this.fills++;
    const rows = changed.reduce((sum, [from, to]) => sum + to - from, 0);
    const maps = [uniforms.numbersMap.value, uniforms.spectrumMap0.value, uniforms.spectrumMap1.value];
    for (const map of maps) {
      if (map === NOTHING) continue;
      map.clearUpdateRanges();
      map.needsUpdate = true;
      const isWhole = rows > MOST_ROWS_APART || !this.sent.has(map);
      this.sent.add(map);
      if (isWhole) continue;
      // Each range has to lie in one row.
      for (const [from, to] of changed) {
        for (let row = from; row < to; row++) map.addUpdateRange(row * MEMORY_COLUMNS, MEMORY_COLUMNS);
      }
    }
    if (uniforms.wavesMap.value !== NOTHING) uniforms.wavesMap.value.needsUpdate = true;
  }

  /** The graphics card has lost all of it. */
  sendAgain(): void {
    this.sent = new WeakSet();
  }

  private remake(): void {
    const { numbers, uniforms } = this;
    this.dispose();
    const memory = (data: Float32Array | undefined) =>
      data ? floats(data, MEMORY_COLUMNS, MEMORY_ROWS) : NOTHING;
    uniforms.numbersMap.value = memory(numbers.numbers);
    uniforms.bandsMap.value = floats(numbers.bandHz, MEMORY_COLUMNS, 1);
    uniforms.spectrumMap0.value = memory(numbers.spectra[0]);
    uniforms.spectrumMap1.value = memory(numbers.spectra[1]);
    uniforms.wavesMap.value = floats(numbers.waves, WAVE_SAMPLES, MOST_SOUNDS);
  }

  dispose(): void {
    for (const uniform of Object.values(this.uniforms)) {
      if (uniform.value instanceof DataTexture && uniform.value !== NOTHING) {
        uniform.value.dispose();
        uniform.value = NOTHING;
      }
    }
  }
}
