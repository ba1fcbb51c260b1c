import { SAMPLE_RATE_HZ } from "../../constants";
import { choice, number, numberChoice, reference, type ValuesOf, whole } from "../../setting/descriptor";
import type { Scene } from "../scene";

/** Sizes that films are made in, pixels. */
export const FILM_SIZES = {
  across: { label: "across, 16:9, 1920 × 1080", width: 1920, height: 1080 },
  square: { label: "square, 1:1, 1080 × 1080", width: 1080, height: 1080 },
  upright: { label: "upright, 9:16, 1080 × 1920", width: 1080, height: 1920 },
  large: { label: "large, 16:9, 3840 × 2160", width: 3840, height: 2160 },
  own: { label: "another size", width: 0, height: 0 },
} as const;

interface FilmFormat {
  label: string;
  extension: "mp4" | "webm" | "zip";
  /** How each picture is kept: encoded after those before it, or as a file of its own. */
  picture: { codec: "avc" | "vp9" | "av1" } | { image: "png" | "jpeg" | "webp" };
  sound: "aac" | "opus" | "wav";
  /** The background is left out: whatever lies behind the scene shows through. */
  isClear: boolean;
}

/** Files that films are made as. */
export const FILM_FORMATS = {
  mp4: {
    label: "MP4 (H.264 and AAC)",
    extension: "mp4",
    picture: { codec: "avc" },
    sound: "aac",
    isClear: false,
  },
  webm: {
    label: "WebM (VP9 and Opus)",
    extension: "webm",
    picture: { codec: "vp9" },
    sound: "opus",
    isClear: false,
  },
  webmAv1: {
    label: "WebM (AV1 and Opus)",
    extension: "webm",
    picture: { codec: "av1" },
    sound: "opus",
    isClear: false,
  },
  webmClear: {
    label: "WebM without background (VP9 and Opus)",
    extension: "webm",
    picture: { codec: "vp9" },
    sound: "opus",
    isClear: true,
  },
  png: {
    label: "PNG frames and WAV (ZIP)",
    extension: "zip",
    picture: { image: "png" },
    sound: "wav",
    isClear: false,
  },
  pngClear: {
    label: "PNG frames without background, and WAV (ZIP)",
    extension: "zip",
    picture: { image: "png" },
    sound: "wav",
    isClear: true,
  },
  jpeg: {
    label: "JPEG frames and WAV (ZIP)",
    extension: "zip",
    picture: { image: "jpeg" },
    sound: "wav",
    isClear: false,
  },
  webp: {
    label: "WebP frames and WAV (ZIP)",
    extension: "zip",
    picture: { image: "webp" },
    sound: "wav",
    isClear: false,
  },
} as const satisfies Record<string, FilmFormat>;
export type FilmFormatName = keyof typeof FILM_FORMATS;

/** Stretches of the tape that a film may show. */
export const STRETCHES = {
  whole: "the whole tape",
  loop: "the looped stretch",
  section: "one section",
  marks: "from mark to mark",
} as const;

const labels = <T extends Record<string, { label: string }>>(table: T) =>
  Object.fromEntries(Object.entries(table).map(([key, { label }]) => [key, label])) as Record<
    keyof T & string,
    string
  >;

/** How a film is made. */
export const FILM_SETTINGS = {
  format: choice("File", labels(FILM_FORMATS), "mp4", "What kind of file it is."),
  size: choice("Size", labels(FILM_SIZES), "across", "Width and height of the picture."),
  width: whole("Width", [16, 7680], 1280, "Width of the picture in pixels, an even number.", {
    when: { setting: "size", is: ["own"] },
  }),
  height: whole("Height", [16, 7680], 720, "Height of the picture in pixels, an even number.", {
    when: { setting: "size", is: ["own"] },
  }),
  framesPerSecond: numberChoice(
    "Frames a second",
    [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60, 120, 0],
    60,
    "Pictures shown in each second. 23.976, 29.97 and 59.94 are 24000, 30000 and 60000 in 1001 seconds.",
    (rate) => (rate === 0 ? "another rate" : String(rate)),
  ),
  ownRate: number("Rate", "", [1, 240, 0.001], 72, "Pictures shown in each second.", {
    when: { setting: "framesPerSecond", is: [0] },
  }),
  stretch: choice("Shows", STRETCHES, "whole", "The part of the tape that it shows."),
  fromMarkId: reference("From", "mark", "The mark that it begins at.", {
    when: { setting: "stretch", is: ["section", "marks"] },
  }),
  toMarkId: reference("To", "mark", "The mark that it ends at; the end of the tape without one.", {
    when: { setting: "stretch", is: ["marks"] },
  }),
  quality: number("Quality", "", [0, 1, 0.05], 0.75, "0 is the smallest file, 1 the best picture."),
  subFrames: whole(
    "Sub-frames",
    [1, 32],
    1,
    "Pictures that each frame is the mean of: more of them blur what moves.",
  ),
};
export type FilmSettings = ValuesOf<typeof FILM_SETTINGS>;

/** Frames in each second of a film. Rates a thousandth below a whole number, such as 29.97, are meant as 30000/1001. */
export function rateOf({
  framesPerSecond,
  ownRate,
}: Pick<FilmSettings, "framesPerSecond" | "ownRate">): number {
  const asked = framesPerSecond === 0 ? ownRate : framesPerSecond;
  const below = (Math.round(asked * 1.001) * 1000) / 1001;
  return Math.abs(asked - below) < 0.0006 ? below : asked;
}

/** Width and height of a film, pixels: even numbers, as codecs want them. */
export function sizeOf({ size, width, height }: Pick<FilmSettings, "size" | "width" | "height">) {
  const chosen = size === "own" ? { width, height } : FILM_SIZES[size];
  const even = (pixels: number) => Math.max(2, 2 * Math.round(pixels / 2));
  return { width: even(chosen.width), height: even(chosen.height) };
}

/** Bits that a pixel of a frame takes, at the lowest and the highest quality. */
const BITS_A_PIXEL = [0.02, 0.4];
/** Frames that follow each other faster than this differ less, and take fewer bits each. */
const USUAL_FPS = 30;

/** Bits a second that the picture of a film takes. */
export function pictureBitsASecond(settings: FilmSettings): number {
  const { width, height } = sizeOf(settings);
  const [least, most] = BITS_A_PIXEL;
  const bits = least * (most / least) ** settings.quality;
  return Math.round(width * height * bits * USUAL_FPS * Math.sqrt(rateOf(settings) / USUAL_FPS));
}
/** Bits a second that the sound of a film takes. */
export const SOUND_BITS_A_SECOND = 192_000;

/** Share of a frame's time that its sub-frames are spread over: that of a shutter open for half a turn. */
const SHUTTER = 0.5;
/** Seconds of a segment: it is encoded by itself, so that parts can be made anywhere and joined as they are. */
const SEGMENT_S = 2;

/** A stretch of the tape, seconds. */
export interface FilmStretch {
  fromS: number;
  toS: number;
}

/**
 * The stretch of the tape that a film shows.
 *
 * @param tapeS  length of the tape
 * @returns in words why there is none
 */
export function stretchOf(
  { stretch, fromMarkId, toMarkId }: Pick<FilmSettings, "stretch" | "fromMarkId" | "toMarkId">,
  scene: Pick<Scene, "marks" | "stretch">,
  tapeS: number,
): FilmStretch | string {
  const inside = (fromS: number, toS: number): FilmStretch | string => {
    const [from, to] = [Math.max(0, fromS), Math.min(tapeS, toS)];
    return to > from ? { fromS: from, toS: to } : "It has no length: choose a stretch that lies on the tape.";
  };
  const mark = (id: string | null) => scene.marks.find((one) => one.id === id);
  switch (stretch) {
    case "whole":
      return inside(0, tapeS);
    case "loop":
      return scene.stretch
        ? inside(scene.stretch.fromS, scene.stretch.toS)
        : "No stretch of the tape is looped: set one on the tape first.";
    case "section": {
      const from = mark(fromMarkId);
      if (!from) return "Choose the mark that the section begins at.";
      const next = scene.marks
        .filter(({ beginsSection, timeS }) => beginsSection && timeS > from.timeS)
        .reduce((soonest, { timeS }) => Math.min(soonest, timeS), tapeS);
      return inside(from.timeS, next);
    }
    case "marks": {
      const from = mark(fromMarkId);
      if (!from) return "Choose the mark that it begins at.";
      return inside(from.timeS, mark(toMarkId)?.timeS ?? tapeS);
    }
  }
}

/** A run of frames, the last one not included. */
export interface FrameRange {
  from: number;
  to: number;
}

/**
 * The frames and samples of a film, by number and never by the clock.
 *
 * @example
 * const plan = new FilmPlan({ fromS: 0, toS: 48 }, 60, 1);
 * plan.frames; // 2880
 * plan.timesOf(60); // [1]
 */
export class FilmPlan {
  /** Frames of the picture. */
  readonly frames: number;
  /** Samples of the sound at 48 kHz: they end with the last frame, within half a sample. */
  readonly samples: number;
  readonly framesPerSecond: number;
  /** Frames of a segment; the last one may have fewer. */
  readonly segmentFrames: number;
  /** Time of the first frame. */
  readonly fromS: number;
  private readonly subFrames: number;

  /** @param framesPerSecond  any above 0 */
  constructor({ fromS, toS }: FilmStretch, framesPerSecond: number, subFrames: number) {
    this.fromS = fromS;
    this.framesPerSecond = framesPerSecond;
    this.subFrames = subFrames;
    this.frames = Math.max(1, Math.round((toS - fromS) * framesPerSecond));
    this.samples = Math.round((this.frames * SAMPLE_RATE_HZ) / framesPerSecond);
    this.segmentFrames = Math.ceil(SEGMENT_S * framesPerSecond);
  }

  /** Seconds that picture and sound both last. */
  get lengthS(): number {
    return this.frames / this.framesPerSecond;
  }

  /** Times on the tape whose pictures a frame is the mean of: its own, and those while its shutter is open. */
  timesOf(frame: number): number[] {
    const atS = this.fromS + frame / this.framesPerSecond;
    return Array.from(
      { length: this.subFrames },
      (_none, i) => atS + (SHUTTER * i) / (this.subFrames * this.framesPerSecond),
    );
  }

  get segments(): number {
    return Math.ceil(this.frames / this.segmentFrames);
  }

  /** The frames of a segment, counted from 0. */
  segment(index: number): FrameRange {
    const from = index * this.segmentFrames;
    return { from, to: Math.min(this.frames, from + this.segmentFrames) };
  }

  /**
   * The segments of one share of the work.
   *
   * @param part  counted from 1
   * @returns segments from one to another, that one not included; where there are more parts than segments, later parts
   *   have none, never the first
   * @throws RangeError for a part that is not one of so many
   */
  part(part: number, parts: number): FrameRange {
    if (!Number.isInteger(part) || !Number.isInteger(parts) || part < 1 || part > parts) {
      throw new RangeError(`part ${part} is none of ${parts}`);
    }
    const at = (share: number) => Math.ceil((this.segments * share) / parts);
    return { from: at(part - 1), to: at(part) };
  }
}
