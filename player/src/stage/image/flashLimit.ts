import { FLASH_CHANGE, FLASH_DARKER_BELOW } from "@bumbrel/core/check/flash";
import { LEAST_RED, LIMIT_MARGIN, MOST_CHANGES } from "@bumbrel/core/check/flashLimiter";
import {
  FramebufferTexture,
  GLSL3,
  Mesh,
  NearestFilter,
  NoBlending,
  OrthographicCamera,
  PlaneGeometry,
  RGBAIntegerFormat,
  ShaderMaterial,
  UnsignedIntType,
  Vector2,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";

/** Changes of a pixel are remembered as ages in ms, ten bits each; whatever is older than a second is as old as can be. */
const OLDEST_MS = 1023;
/** After a pause this long nothing of before counts, ms. */
const FORGET_MS = 1100;
/** Pixels on a side of the picture in which it is counted how much is held back. */
const COUNTED = 16;
/** How often it is counted, ms. */
const COUNT_EVERY_MS = 250;

const VERTEX =
  "out vec2 at; void main() { at = position.xy * 0.5 + 0.5; gl_Position = vec4(position.xy, 0.0, 1.0); }";

const number = (value: number) => value.toFixed(6);

/** The definition, {@link FlashLimiter}, pixel by pixel. A pixel's memory is packed into 128 bits. */
const LIMIT = `
precision highp float;
precision highp int;
precision highp usampler2D;
uniform sampler2D picture;
uniform sampler2D before;
uniform usampler2D memory;
uniform uint passedMs;
uniform bool isFirst;
in vec2 at;
layout(location = 0) out vec4 shown;
layout(location = 1) out uvec4 kept;

const float CHANGE = ${number(FLASH_CHANGE)};
const float MARGIN = ${number(LIMIT_MARGIN)};
const float HELD = CHANGE - MARGIN;
const float DARKER = ${number(FLASH_DARKER_BELOW)};
const float LEAST_RED = ${number(LEAST_RED)};
const int CHANGES = ${MOST_CHANGES};

vec3 toLinear(vec3 c) { return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(0.04045, c)); }
vec3 toSrgb(vec3 c) { return mix(c * 12.92, 1.055 * pow(max(c, 0.0), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c)); }
float lightOf(vec3 c) { return dot(c, vec3(0.2126, 0.7152, 0.0722)); }
bool isLarge(float from, float to) { return abs(to - from) > HELD && min(to, from) < DARKER; }

void main() {
  vec3 colour = toLinear(texture(picture, at).rgb);
  float all = colour.r + colour.g + colour.b;
  if (all >= 1e-3 && colour.r / all >= LEAST_RED) colour.gb += (colour.r / LEAST_RED - all) / 2.0;
  float wanted = lightOf(colour);
  uvec4 m = texelFetch(memory, ivec2(gl_FragCoord.xy), 0);
  uint age[CHANGES];
  int way = 0;
  float start = wanted;
  float extreme = wanted;
  float allowed = wanted;
  if (isFirst) {
    for (int i = 0; i < CHANGES; i++) age[i] = ${OLDEST_MS}u;
  } else {
    // The newest change comes first.
    for (int i = 0; i < CHANGES; i++) {
      uint word = i < 3 ? m.x : m.y;
      age[i] = min(${OLDEST_MS}u, ((word >> uint(10 * (i % 3))) & 1023u) + passedMs);
    }
    way = int(m.x >> 30u) - 1;
    start = float(m.w & 65535u) / 65535.0;
    extreme = float(m.w >> 16u) / 65535.0;
    int turn = 0;
    float from = extreme;
    if (way == 0) {
      start = min(start, wanted);
      extreme = max(extreme, wanted);
      if (isLarge(start, wanted)) { turn = 1; from = start; }
      else if (isLarge(extreme, wanted)) { turn = -1; from = extreme; }
    } else if (float(way) * (wanted - extreme) >= 0.0) {
      if (abs(extreme - start) <= CHANGE + MARGIN) age[0] = 0u;
      extreme = wanted;
    } else if (isLarge(extreme, wanted)) {
      if (age[CHANGES - 1] > 1000u) turn = -way;
      else allowed = extreme - float(way) * HELD;
    }
    if (turn != 0) {
      for (int i = CHANGES - 1; i > 0; i--) age[i] = age[i - 1];
      age[0] = 0u;
      way = turn;
      start = from;
      extreme = wanted;
    }
    if (abs(allowed - wanted) > 1e-6) {
      vec3 last = toLinear(texelFetch(before, ivec2(gl_FragCoord.xy), 0).rgb);
      float apart = lightOf(last) - wanted;
      float share = clamp((allowed - wanted) / (abs(apart) < 1e-9 ? 1e-9 : apart), 0.0, 1.0);
      colour = mix(colour, last, share);
    }
  }
  shown = vec4(toSrgb(clamp(colour, 0.0, 1.0)), abs(allowed - wanted) > 1e-6 ? 1.0 : 0.0);
  kept = uvec4(
    age[0] | (age[1] << 10u) | (age[2] << 20u) | (uint(way + 1) << 30u),
    age[3] | (age[4] << 10u) | (age[5] << 20u),
    0u,
    uint(round(clamp(start, 0.0, 1.0) * 65535.0)) | (uint(round(clamp(extreme, 0.0, 1.0) * 65535.0)) << 16u)
  );
}`;

const SHOW = `
precision highp float;
uniform sampler2D picture;
in vec2 at;
out vec4 shown;
void main() { shown = vec4(texture(picture, at).rgb, 1.0); }`;

const COUNT = `
precision highp float;
uniform sampler2D picture;
in vec2 at;
out vec4 share;
void main() {
  float sum = 0.0;
  for (int y = 0; y < 8; y++)
    for (int x = 0; x < 8; x++)
      sum += texture(picture, at + (vec2(x, y) - 3.5) / (8.0 * ${COUNTED}.0)).a;
  share = vec4(sum / 64.0);
}`;

/**
 * Bounds how the picture changes, after everything else has been drawn: whatever is shown passes WCAG 2.3.1.
 *
 * It remembers what was shown within the last second, so it is told the time of each picture.
 */
export class FlashLimit {
  /** Share of the picture that was held back when it was last counted, 0..1. */
  strength = 0;
  private readonly renderer: WebGLRenderer;
  private readonly camera = new OrthographicCamera();
  private readonly quad = new Mesh(new PlaneGeometry(2, 2));
  private readonly limiting: ShaderMaterial;
  private readonly showing = material(SHOW, {});
  private readonly counting = material(COUNT, {});
  private readonly counted = new WebGLRenderTarget(COUNTED, COUNTED, { depthBuffer: false });
  private readonly size = new Vector2();
  private picture: FramebufferTexture | undefined;
  private memories: [WebGLRenderTarget, WebGLRenderTarget] | undefined;
  private lastMs: number | undefined;
  private countedMs = 0;

  constructor(renderer: WebGLRenderer) {
    this.renderer = renderer;
    this.limiting = material(LIMIT, { before: null, memory: null, passedMs: 0, isFirst: true });
    this.quad.frustumCulled = false;
  }

  /** Forgets what was shown: the next picture is the first. */
  forget(): void {
    this.lastMs = undefined;
  }

  /**
   * Limits the picture that is on the canvas.
   *
   * @param timeS  when it is shown
   */
  apply(timeS: number): void {
    const { renderer, limiting, quad } = this;
    const memories = this.fit();
    const nowMs = Math.round(timeS * 1000);
    const passedMs = this.lastMs === undefined ? Number.POSITIVE_INFINITY : nowMs - this.lastMs;
    const isFirst = passedMs < 0 || passedMs > FORGET_MS;
    this.lastMs = nowMs;
    const target = renderer.getRenderTarget();
    const { autoClear, toneMapping } = renderer;
    renderer.autoClear = false;
    renderer.setRenderTarget(null);
    renderer.copyFramebufferToTexture(this.picture!);
    const [now, before] = memories;
    Object.assign(limiting.uniforms, {
      picture: { value: this.picture },
      before: { value: before.textures[0] },
      memory: { value: before.textures[1] },
      passedMs: { value: isFirst ? 0 : passedMs },
      isFirst: { value: isFirst },
    });
    this.draw(limiting, now);
    this.showing.uniforms.picture = { value: now.textures[0] };
    this.draw(this.showing, null);
    if (Math.abs(nowMs - this.countedMs) > COUNT_EVERY_MS) {
      this.countedMs = nowMs;
      this.count(now);
    }
    renderer.setRenderTarget(target);
    renderer.autoClear = autoClear;
    renderer.toneMapping = toneMapping;
    memories.reverse();
    quad.material = this.showing;
  }

  private draw(drawn: ShaderMaterial, target: WebGLRenderTarget | null): void {
    const { renderer, quad } = this;
    quad.material = drawn;
    renderer.setRenderTarget(target);
    renderer.render(quad, this.camera);
  }

  private count({ textures }: WebGLRenderTarget): void {
    this.counting.uniforms.picture = { value: textures[0] };
    this.draw(this.counting, this.counted);
    const pixels = new Uint8Array(COUNTED * COUNTED * 4);
    this.renderer.readRenderTargetPixels(this.counted, 0, 0, COUNTED, COUNTED, pixels);
    let sum = 0;
    for (let at = 0; at < pixels.length; at += 4) sum += pixels[at];
    this.strength = sum / (255 * COUNTED * COUNTED);
  }

  /** Memories as large as the canvas; new ones are empty. */
  private fit(): [WebGLRenderTarget, WebGLRenderTarget] {
    this.renderer.getDrawingBufferSize(this.size);
    const { x: width, y: height } = this.size;
    const { memories } = this;
    if (memories && memories[0].width === width && memories[0].height === height) return memories;
    this.free();
    this.picture = new FramebufferTexture(width, height);
    this.memories = [memory(width, height), memory(width, height)];
    // A memory that is read before anything was drawn into it must be there all the same.
    for (const one of this.memories) this.renderer.initRenderTarget(one);
    this.lastMs = undefined;
    return this.memories;
  }

  private free(): void {
    this.picture?.dispose();
    for (const one of this.memories ?? []) one.dispose();
  }

  dispose(): void {
    this.free();
    this.counted.dispose();
    this.quad.geometry.dispose();
    for (const one of [this.limiting, this.showing, this.counting]) one.dispose();
  }
}

/** The previous image, and 128 bits of memory for each pixel. */
function memory(width: number, height: number): WebGLRenderTarget {
  const target = new WebGLRenderTarget(width, height, {
    count: 2,
    depthBuffer: false,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
  });
  const [, packed] = target.textures;
  packed.format = RGBAIntegerFormat;
  packed.type = UnsignedIntType;
  packed.internalFormat = "RGBA32UI";
  return target;
}

function material(fragmentShader: string, uniforms: Record<string, unknown>): ShaderMaterial {
  return new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: VERTEX,
    fragmentShader,
    uniforms: {
      picture: { value: null },
      ...Object.fromEntries(Object.entries(uniforms).map(([name, value]) => [name, { value }])),
    },
    blending: NoBlending,
    depthTest: false,
    depthWrite: false,
    toneMapped: false,
  });
}
