import type { CameraPicture } from "./madeUpCamera";
import type { PersonFinder } from "./personFinder";

/** Which way a camera looks. */
export const SIDES = { front: "front", back: "back" } as const;
export type CameraSide = keyof typeof SIDES;

/** Why a camera cannot be had, in words. */
function refusal(error: unknown): string {
  const name = error instanceof DOMException ? error.name : "";
  if (name === "NotAllowedError") return "The camera was refused. Allow it in the browser, and try again.";
  if (name === "NotFoundError") return "There is no camera here.";
  if (name === "NotReadableError") return "Another program uses the camera. Close it, and try again.";
  return "The camera cannot be opened here.";
}

/**
 * A device's camera, with the person in it found in its pictures. Nothing of it leaves the page.
 */
export class RealCamera implements CameraPicture {
  readonly picture: HTMLVideoElement;
  readonly isMirrored: boolean;
  private readonly stream: MediaStream;
  private readonly finder: PersonFinder | undefined;
  private shownS = -1;

  private constructor(stream: MediaStream, video: HTMLVideoElement, side: CameraSide, finder?: PersonFinder) {
    this.stream = stream;
    this.picture = video;
    this.isMirrored = side === "front";
    this.finder = finder;
  }

  /**
   * Opens a camera; the browser asks for it.
   *
   * @param finder  finds the person; without one nobody is cut out
   * @throws Error in words, when it is refused or there is none
   */
  static async open(side: CameraSide, finder?: PersonFinder): Promise<RealCamera> {
    let stream: MediaStream;
    // Typed as always there; pages that are not secure have none.
    if (!(navigator.mediaDevices as MediaDevices | undefined)) {
      throw new Error("Browsers open cameras for pages over https only. Open this page over https.");
    }
    try {
      stream = await navigator.mediaDevices.getUserMedia({
        audio: false,
        video: {
          facingMode: side === "front" ? "user" : "environment",
          width: { ideal: 1280 },
          height: { ideal: 720 },
        },
      });
    } catch (error) {
      throw new Error(refusal(error));
    }
    const video = document.createElement("video");
    video.muted = true;
    video.playsInline = true;
    video.srcObject = stream;
    await video.play();
    // The code that draws it asks for the size of the element.
    video.width = video.videoWidth;
    video.height = video.videoHeight;
    return new RealCamera(stream, video, side, finder);
  }

  get width(): number {
    return this.picture.videoWidth;
  }
  get height(): number {
    return this.picture.videoHeight;
  }
  get mask(): HTMLCanvasElement | undefined {
    return this.finder?.mask;
  }
  get delayMs(): number | undefined {
    return this.finder?.delayMs;
  }
  get tookMs(): number | undefined {
    return this.finder?.tookMs;
  }

  update(): boolean {
    const { currentTime } = this.picture;
    if (currentTime === this.shownS) return false;
    this.shownS = currentTime;
    this.finder?.offer(this.picture);
    return true;
  }

  dispose(): void {
    for (const track of this.stream.getTracks()) track.stop();
    this.picture.srcObject = null;
    this.finder?.dispose();
  }
}
