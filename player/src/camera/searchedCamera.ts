import type { CameraPicture, MadeUpCamera } from "./madeUpCamera";
import type { PersonFinder } from "./personFinder";

/** The made-up camera's picture with the person found in it as in any other: to see how well that goes. */
export class SearchedCamera implements CameraPicture {
  readonly isMirrored = true;
  private readonly made: MadeUpCamera;
  private readonly finder: PersonFinder;

  constructor(made: MadeUpCamera, finder: PersonFinder) {
    this.made = made;
    this.finder = finder;
  }

  get picture(): HTMLCanvasElement {
    return this.made.picture;
  }
  get width(): number {
    return this.made.width;
  }
  get height(): number {
    return this.made.height;
  }
  get mask(): HTMLCanvasElement | undefined {
    return this.finder.mask;
  }
  get delayMs(): number | undefined {
    return this.finder.delayMs;
  }
  get tookMs(): number | undefined {
    return this.finder.tookMs;
  }
  /** The outline that is known, to compare with. */
  get knownMask(): HTMLCanvasElement {
    return this.made.mask;
  }

  update(timeS: number): boolean {
    if (!this.made.update(timeS)) return false;
    this.finder.offer(this.made.picture);
    return true;
  }

  dispose(): void {
    this.made.dispose();
    this.finder.dispose();
  }
}
