/** Messages to and from the frame that finds the person. */
export type ToFinder =
  | { kind: "files"; files: Record<string, ArrayBuffer> }
  | { kind: "picture"; picture: ImageBitmap };
export type FromFinder =
  /** Its page is there and waits for its files. */
  | { kind: "waiting" }
  | { kind: "ready" }
  | { kind: "mask"; mask: ImageBitmap; tookMs: number }
  | { kind: "failed"; message: string };

/** Page that finds the person, and the files it needs. */
export interface FinderParts {
  /** Address of the page, or its text. */
  page: { url: string } | { text: string };
  /** The library's files by their names. */
  files(): Promise<Record<string, ArrayBuffer>>;
}

/** Pictures are handed over no larger than this: the person is found in 256 × 256 pixels. */
const LONGEST_PX = 320;

/**
 * Finds the person in pictures, in a sandboxed frame of its own: it sees pictures and gives masks, and can reach nothing
 * else. While it is at work on one picture, others pass by.
 */
export class PersonFinder {
  /** White where the person was, in the last picture that is done. */
  mask: HTMLCanvasElement | undefined;
  /** Milliseconds from handing a picture over to having its mask; smoothed. */
  delayMs: number | undefined;
  /** Milliseconds that finding alone took; smoothed. */
  tookMs: number | undefined;
  private readonly frame: HTMLIFrameElement;
  private readonly onChange: (problem?: string) => void;
  private readonly files: FinderParts["files"];
  private isReady = false;
  private isBusy = false;
  private sinceMs = 0;

  /** @param onChange  called when a mask has come, and with words when it cannot find anybody any more */
  constructor({ page, files }: FinderParts, onChange: (problem?: string) => void = () => {}) {
    this.onChange = onChange;
    this.files = files;
    this.frame = document.createElement("iframe");
    this.frame.setAttribute("sandbox", "allow-scripts");
    this.frame.setAttribute("aria-hidden", "true");
    this.frame.tabIndex = -1;
    // In sight of the browser, which draws nothing for frames that are not, and of nobody else.
    Object.assign(this.frame.style, {
      position: "fixed",
      width: "2px",
      height: "2px",
      left: "0",
      bottom: "0",
      border: "0",
      opacity: "0.01",
      pointerEvents: "none",
    });
    if ("url" in page) this.frame.src = page.url;
    else this.frame.srcdoc = page.text;
    addEventListener("message", this.receive);
    document.body.append(this.frame);
  }

  private readonly receive = ({ source, data }: MessageEvent<FromFinder>) => {
    if (source !== this.frame.contentWindow) return;
    if (data.kind === "waiting") void this.handFiles();
    if (data.kind === "ready") this.isReady = true;
    if (data.kind === "failed") this.onChange(data.message);
    if (data.kind !== "mask") return;
    this.isBusy = false;
    const isFirst = this.mask === undefined;
    this.mask ??= document.createElement("canvas");
    const { width, height } = data.mask;
    if (this.mask.width !== width) this.mask.width = width;
    if (this.mask.height !== height) this.mask.height = height;
    const context = this.mask.getContext("2d");
    if (context) {
      // The library's masks are clear where nobody is.
      context.fillStyle = "#000000";
      context.fillRect(0, 0, width, height);
      context.drawImage(data.mask, 0, 0);
    }
    data.mask.close();
    // The first one also waited for the library to make itself ready.
    if (isFirst) {
      this.onChange();
      return;
    }
    const smooth = (before: number | undefined, now: number) =>
      before === undefined ? now : before + (now - before) * 0.2;
    this.delayMs = smooth(this.delayMs, performance.now() - this.sinceMs);
    this.tookMs = smooth(this.tookMs, data.tookMs);
    this.onChange();
  };

  private async handFiles(): Promise<void> {
    try {
      const files = await this.files();
      const message: ToFinder = { kind: "files", files };
      this.frame.contentWindow?.postMessage(message, "*", Object.values(files));
    } catch (error) {
      this.onChange(`Nobody can be cut out: ${(error as Error).message}`);
    }
  }

  /** Hands over a picture, unless it is still at work on another. */
  offer(picture: HTMLVideoElement | HTMLCanvasElement): void {
    if (!this.isReady || this.isBusy) return;
    const width = picture instanceof HTMLVideoElement ? picture.videoWidth : picture.width;
    const height = picture instanceof HTMLVideoElement ? picture.videoHeight : picture.height;
    if (width === 0 || height === 0) return;
    this.isBusy = true;
    this.sinceMs = performance.now();
    const share = Math.min(1, LONGEST_PX / Math.max(width, height));
    createImageBitmap(picture, {
      resizeWidth: Math.round(width * share),
      resizeHeight: Math.round(height * share),
    }).then(
      (bitmap) => {
        const message: ToFinder = { kind: "picture", picture: bitmap };
        this.frame.contentWindow?.postMessage(message, "*", [bitmap]);
      },
      () => {
        this.isBusy = false;
      },
    );
  }

  dispose(): void {
    removeEventListener("message", this.receive);
    this.frame.remove();
    this.mask = undefined;
  }
}
