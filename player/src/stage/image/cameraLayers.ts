import { settingOf } from "@bumbrel/core/kinds/table";
import {
  CustomToneMapping,
  LinearFilter,
  Mesh,
  NeutralToneMapping,
  NoToneMapping,
  OrthographicCamera,
  type PerspectiveCamera,
  PlaneGeometry,
  type Scene,
  ShaderMaterial,
  SRGBColorSpace,
  Texture,
  Vector2,
  type WebGLRenderer,
} from "three";
import type { CameraPicture } from "../../camera/madeUpCamera";
import type { LensLook } from "../objects/lens";
import type { StageEntry } from "../renderedObject";

/** Position of an object on a camera's picture. */
type CameraPlace = "before" | "behind" | "background" | "hidden";

const VERTEX = `
varying vec2 at;
uniform vec2 fit;
uniform float mirror;
void main() {
  at = (uv - 0.5) * fit;
  at.x *= mirror;
  at += 0.5;
  gl_Position = vec4(position.xy * 2.0, 0.0, 1.0);
}`;

const FRAGMENT = `
varying vec2 at;
uniform sampler2D picture;
uniform sampler2D mask;
uniform vec2 pixel;
uniform float cutsOut;
void main() {
  vec3 colour = texture2D(picture, at).rgb;
  float share = 1.0;
  if (cutsOut > 0.5) {
    float sum = 0.0;
    for (int y = -1; y <= 1; y++) for (int x = -1; x <= 1; x++) sum += texture2D(mask, at + vec2(x, y) * pixel).r;
    share = smoothstep(0.3, 0.7, sum / 9.0);
  }
  gl_FragColor = vec4(colour, share);
  #include <colorspace_fragment>
}`;

/**
 * Draws a scene on a camera's picture: what fills the background, what stands behind the person, the person cut out of the
 * picture, and what stands before them.
 */
export class CameraLayers {
  private readonly screen = new OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly picture = new Texture();
  private readonly mask = new Texture();
  private readonly quad: Mesh<PlaneGeometry, ShaderMaterial>;
  private readonly camera: CameraPicture;
  private readonly size = new Vector2();
  private hasMask = false;

  constructor(camera: CameraPicture) {
    this.camera = camera;
    this.picture.colorSpace = SRGBColorSpace;
    for (const texture of [this.picture, this.mask]) {
      texture.generateMipmaps = false;
      texture.minFilter = LinearFilter;
    }
    const material = new ShaderMaterial({
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: {
        picture: { value: this.picture },
        mask: { value: this.mask },
        fit: { value: new Vector2(1, 1) },
        mirror: { value: camera.isMirrored ? -1 : 1 },
        pixel: { value: new Vector2(1, 1) },
        cutsOut: { value: 0 },
      },
      transparent: true,
      depthTest: false,
      depthWrite: false,
      toneMapped: false,
    });
    this.quad = new Mesh(new PlaneGeometry(1, 1), material);
    this.quad.frustumCulled = false;
  }

  /** Brings the picture to a time; tells whether it has changed. */
  update(timeS: number): boolean {
    const { camera } = this;
    if (!camera.update(timeS) || camera.width === 0) return false;
    this.picture.image = camera.picture;
    this.picture.needsUpdate = true;
    this.hasMask = camera.mask !== undefined;
    if (camera.mask) {
      this.mask.image = camera.mask;
      this.mask.needsUpdate = true;
    }
    return true;
  }

  /** Draws all layers to the screen. */
  render(
    renderer: WebGLRenderer,
    three: Scene,
    eye: PerspectiveCamera,
    entries: Iterable<StageEntry>,
    look: LensLook | undefined,
  ): void {
    const { camera, quad, size } = this;
    renderer.setRenderTarget(null);
    renderer.getDrawingBufferSize(size);
    const { uniforms } = quad.material;
    const screen = size.x / Math.max(1, size.y);
    const own = camera.width / Math.max(1, camera.height);
    // The picture covers the screen; what does not fit is cut off at two sides.
    (uniforms.fit.value as Vector2).set(Math.min(1, screen / own), Math.min(1, own / screen));
    (uniforms.pixel.value as Vector2).set(1 / 256, 1 / 256);
    const places = new Map<CameraPlace, StageEntry[]>();
    for (const entry of entries) {
      const { object } = entry.source;
      const place = (settingOf(object, "onCamera") ?? "before") as CameraPlace;
      places.set(place, [...(places.get(place) ?? []), entry]);
    }
    const before = new Map<StageEntry, boolean>();
    for (const list of places.values()) {
      for (const entry of list) before.set(entry, entry.rendered.root.visible);
    }
    const show = (place: CameraPlace | "none") => {
      for (const [one, list] of places) {
        for (const entry of list) {
          // Lights shine on all layers.
          const isShown = one === place || entry.source.object.kind.endsWith("Light");
          entry.rendered.root.visible = isShown && before.get(entry)!;
        }
      }
    };
    const draw = (place: CameraPlace) => {
      if (!places.has(place)) return;
      show(place);
      renderer.toneMapping = look?.toneMapping === "neutral" ? NeutralToneMapping : CustomToneMapping;
      renderer.toneMappingExposure = 2 ** (look?.exposure ?? 0);
      renderer.render(three, eye);
    };
    const { autoClear } = renderer;
    const { fog } = three;
    // Fog would be the colour of a backdrop that is not there.
    three.fog = null;
    renderer.autoClear = false;
    renderer.clear();
    this.drawPicture(renderer, false);
    draw("background");
    renderer.clearDepth();
    draw("behind");
    if (this.hasMask) this.drawPicture(renderer, true);
    renderer.clearDepth();
    draw("before");
    for (const [entry, isShown] of before) entry.rendered.root.visible = isShown;
    renderer.autoClear = autoClear;
    three.fog = fog;
  }

  private drawPicture(renderer: WebGLRenderer, cutsOut: boolean): void {
    this.quad.material.uniforms.cutsOut.value = cutsOut ? 1 : 0;
    renderer.toneMapping = NoToneMapping;
    renderer.render(this.quad as unknown as Scene, this.screen);
  }

  dispose(): void {
    this.picture.dispose();
    this.mask.dispose();
    this.quad.geometry.dispose();
    this.quad.material.dispose();
    this.camera.dispose();
  }
}
