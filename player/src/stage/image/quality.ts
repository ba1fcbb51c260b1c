import type { QualityStep } from "@bumbrel/core/document/scene";

/** Spending of a quality step on drawing; none of it changes a number. */
export interface QualitySpending {
  /** Share of the screen's pixels along each side. */
  pixels: number;
  /** Samples that soften edges in each pixel. */
  samples: number;
  /** Smooths edges once more in the finished image, where very bright light meets dark. */
  smoothsEdges: boolean;
  /** Applies bloom, feedback, grading and the like. */
  effects: boolean;
  /** Share of the image's pixels that bloom is computed on. */
  bloom: number;
  occlusion: "none" | "low" | "medium" | "high";
  focus: boolean;
  /** Lights that cast shadows at most, those of them that do so in all directions, and pixels of a side of a shadow. */
  shadows: { lights: number; lamps: number; pixels: number };
  /** Pixels of a side of contact shadows; 0 draws none. */
  contacts: number;
  /** Share of the image's pixels that a reflection is drawn with; 0 draws none. */
  reflections: number;
  /** Share of the steps that round shapes are made of. */
  fineness: number;
  /** Fades particles where they touch things. */
  softParticles: boolean;
  /** Mirrors the environment in surfaces; otherwise it only lights them. */
  mirrorsEnvironment: boolean;
}

/**
 * Steps that images are drawn at: those that a scene can ask for; `measure`, which draws what flashes are measured in,
 * without everything that moves light by less than a pixel; `glance`, the same with even light from all round, which is
 * enough where that light does not change; and `weigh`, with all triangles and draw calls, so that the cost of a frame can
 * be counted.
 */
export type DrawnStep = QualityStep | "measure" | "glance" | "weigh";

const MEASURE: QualitySpending = {
  pixels: 1,
  samples: 0,
  smoothsEdges: false,
  effects: true,
  bloom: 0.5,
  occlusion: "none",
  focus: false,
  shadows: { lights: 4, lamps: 2, pixels: 256 },
  contacts: 0,
  reflections: 0.25,
  fineness: 0.5,
  softParticles: false,
  mirrorsEnvironment: true,
};

/** The ladder of quality: what is on at each step. */
export const QUALITY: Record<DrawnStep, QualitySpending> = {
  measure: MEASURE,
  glance: { ...MEASURE, mirrorsEnvironment: false },
  weigh: { ...MEASURE, mirrorsEnvironment: false, contacts: 64, fineness: 1 },
  film: {
    pixels: 1,
    samples: 8,
    smoothsEdges: true,
    effects: true,
    bloom: 1,
    occlusion: "high",
    focus: true,
    shadows: { lights: 8, lamps: 4, pixels: 4096 },
    contacts: 1024,
    reflections: 1,
    fineness: 1,
    softParticles: true,
    mirrorsEnvironment: true,
  },
  desktop: {
    pixels: 1,
    samples: 4,
    smoothsEdges: true,
    effects: true,
    bloom: 0.5,
    occlusion: "medium",
    focus: true,
    shadows: { lights: 4, lamps: 2, pixels: 2048 },
    contacts: 512,
    reflections: 0.5,
    fineness: 1,
    softParticles: true,
    mirrorsEnvironment: true,
  },
  // Two eyes, and no time for passes over the image.
  headset: {
    pixels: 1,
    samples: 4,
    smoothsEdges: false,
    effects: false,
    bloom: 0.25,
    occlusion: "none",
    focus: false,
    shadows: { lights: 1, lamps: 0, pixels: 1024 },
    contacts: 0,
    reflections: 0,
    fineness: 0.5,
    softParticles: false,
    mirrorsEnvironment: true,
  },
  phone: {
    pixels: 0.75,
    samples: 2,
    smoothsEdges: false,
    effects: true,
    bloom: 0.25,
    occlusion: "none",
    focus: false,
    shadows: { lights: 1, lamps: 0, pixels: 1024 },
    contacts: 256,
    reflections: 0.25,
    fineness: 0.5,
    softParticles: false,
    mirrorsEnvironment: true,
  },
  plain: {
    pixels: 0.5,
    samples: 0,
    smoothsEdges: false,
    effects: false,
    bloom: 0.25,
    occlusion: "none",
    focus: false,
    shadows: { lights: 0, lamps: 0, pixels: 512 },
    contacts: 0,
    reflections: 0,
    fineness: 0.5,
    softParticles: false,
    mirrorsEnvironment: false,
  },
};

/** Frames that take longer than this, ms, for a while make the automatic quality go a step down. */
const TOO_LONG_MS = 1000 / 28;
/** Frames looked at before each decision: about two seconds at 60 frames a second. */
const FRAMES = 120;
/** Steps that the automatic quality takes from each budget, downwards. */
const LADDERS: Record<"desktop" | "phone" | "headset", readonly QualityStep[]> = {
  desktop: ["desktop", "phone", "plain"],
  phone: ["phone", "plain"],
  headset: ["headset", "plain"],
};

/**
 * Chooses a step of quality by the time that frames take over a while. It begins with the step of the budget, and goes
 * down when most frames are late; it never goes up again by itself, so that the image does not change to and fro.
 */
export class AutomaticQuality {
  private readonly isSoftware: boolean;
  private budget: keyof typeof LADDERS = "desktop";
  private below = 0;
  private late = 0;
  private frames = 0;

  /** @param isSoftware  whether there is no graphics card: then it is the last step at once */
  constructor(isSoftware: boolean) {
    this.isSoftware = isSoftware;
  }

  get step(): QualityStep {
    return this.isSoftware ? "plain" : LADDERS[this.budget][this.below];
  }

  /** Begins again at the step of a budget, unless that is the budget it has. */
  setBudget(budget: keyof typeof LADDERS): void {
    if (budget === this.budget) return;
    this.budget = budget;
    this.below = 0;
    this.forget();
  }

  /** Looks away from frames that are late for other reasons: loading, a view that has just been opened. */
  forget(): void {
    this.late = 0;
    this.frames = 0;
  }

  /**
   * Takes note of the time between two frames, ms.
   *
   * @returns whether the step is another one now
   */
  observe(intervalMs: number): boolean {
    this.frames++;
    if (intervalMs > TOO_LONG_MS) this.late++;
    // On slow machines the answer is needed sooner than after so many frames.
    const isLong = this.late * TOO_LONG_MS > FRAMES * (1000 / 60);
    if (this.frames < FRAMES && !isLong) return false;
    const isLate = this.late > this.frames / 2;
    this.forget();
    if (!isLate || this.isSoftware || this.below === LADDERS[this.budget].length - 1) return false;
    this.below++;
    return true;
  }
}

/** True if a browser says that it draws without a graphics card. */
export function drawsInSoftware(gl: WebGLRenderingContext | WebGL2RenderingContext): boolean {
  const info = gl.getExtension("WEBGL_debug_renderer_info");
  const name = info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : "";
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
}
