import {
  Color,
  DataTexture,
  DataUtils,
  EquirectangularReflectionMapping,
  HalfFloatType,
  LightProbe,
  LinearFilter,
  LinearSRGBColorSpace,
  PMREMGenerator,
  RGBAFormat,
  type Scene,
  type Texture,
  type WebGLRenderer,
  type WebGLRenderTarget,
} from "three";
import { harmonicsOf, panoramaOf, type SceneryName } from "./sceneries";

/** Width of a panorama made in code, pixels: 1.4° each, finer than a surface mirrors but for polished metal. */
const WIDTH_PX = 256;

/** Settings of the surroundings, from the scene. */
export interface EnvironmentLook {
  scenery: SceneryName | "panorama" | "none";
  /** An image of one's own, once it has arrived. */
  panorama: Texture | undefined;
  intensity: number;
  /** Degrees about the upright axis. */
  turn: number;
}

const panoramas = new Map<SceneryName, Float32Array>();
function pixelsOf(name: SceneryName): Float32Array {
  let pixels = panoramas.get(name);
  if (!pixels) {
    pixels = panoramaOf(name, WIDTH_PX);
    panoramas.set(name, pixels);
  }
  return pixels;
}

const harmonics = new Map<SceneryName, Float32Array>();
function harmonicsFor(name: SceneryName): Float32Array {
  let known = harmonics.get(name);
  if (!known) {
    known = harmonicsOf(pixelsOf(name), WIDTH_PX);
    harmonics.set(name, known);
  }
  return known;
}

/** Lights a stage from all round: what stands there mirrors it, or, where that costs too much, is only lit by it. */
export class EnvironmentLight {
  private readonly renderer: WebGLRenderer;
  private readonly scene: Scene;
  private readonly probe = new LightProbe();
  private readonly maps = new Map<SceneryName | Texture, WebGLRenderTarget>();
  private probed: SceneryName | undefined;
  private readonly mean = new Color();

  constructor(renderer: WebGLRenderer, scene: Scene) {
    this.renderer = renderer;
    this.scene = scene;
    scene.add(this.probe);
  }

  /** @param isMirrored  whether surfaces mirror it, or are lit evenly by it */
  show({ scenery, panorama, intensity, turn }: EnvironmentLook, isMirrored: boolean): void {
    const { scene, probe } = this;
    const source = scenery === "none" ? undefined : scenery === "panorama" ? panorama : scenery;
    const isProbed = !isMirrored && typeof source === "string" && intensity > 0;
    probe.visible = isProbed;
    scene.environment = null;
    if (source === undefined || intensity <= 0) return;
    if (isProbed) {
      if (this.probed !== source) {
        probe.sh.fromArray([...harmonicsFor(source)]);
        this.probed = source;
      }
      probe.intensity = intensity;
      return;
    }
    scene.environment = this.mapOf(source).texture;
    scene.environmentIntensity = intensity;
    scene.environmentRotation.set(0, (turn * Math.PI) / 180, 0);
  }

  /** The light that arrives on the mean from any side; of an image of one's own an estimate, a middle grey. */
  meanLight({ scenery, intensity }: EnvironmentLook): Color {
    const { mean } = this;
    if (scenery === "none") return mean.setScalar(0);
    if (scenery === "panorama") return mean.setScalar(0.2 * intensity);
    // The first harmonic is the mean times the root of 4π.
    const [r, g, b] = harmonicsFor(scenery);
    return mean.setRGB(r, g, b).multiplyScalar(intensity / Math.sqrt(4 * Math.PI));
  }

  private mapOf(source: SceneryName | Texture): WebGLRenderTarget {
    let map = this.maps.get(source);
    if (map) return map;
    const generator = new PMREMGenerator(this.renderer);
    const texture = typeof source === "string" ? asTexture(pixelsOf(source)) : source;
    map = generator.fromEquirectangular(texture);
    generator.dispose();
    if (typeof source === "string") texture.dispose();
    this.maps.set(source, map);
    return map;
  }

  dispose(): void {
    for (const map of this.maps.values()) map.dispose();
    this.maps.clear();
  }
}

function asTexture(pixels: Float32Array): Texture {
  const halves = Uint16Array.from(pixels, (one) => DataUtils.toHalfFloat(one));
  const texture = new DataTexture(halves, WIDTH_PX, WIDTH_PX / 2, RGBAFormat, HalfFloatType);
  texture.mapping = EquirectangularReflectionMapping;
  texture.colorSpace = LinearSRGBColorSpace;
  texture.minFilter = LinearFilter;
  texture.magFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}
