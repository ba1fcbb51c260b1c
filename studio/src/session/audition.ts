import type { Keep, Scene } from "@bumbrel/core/document/scene";
import { withKeep } from "@bumbrel/core/document/versions/keeps";
import type { Track } from "@bumbrel/core/strand/track";
import { CueClicks } from "@bumbrel/player/audio/cueClicks";
import type { ScenePlayer } from "@bumbrel/player/scenePlayer";

/** Tunings that can be compared with the present ones. */
export type Tunings = Pick<Keep, "strands" | "bindings">;

/** More cues within a frame than this come from a seek. */
const MOST_CLICKS = 4;

/** Solo, comparing and clicks, for this visit; no part of the document. */
export class Audition {
  /** Sounds and buses of which nothing else is heard. */
  readonly solo = new Set<string>();
  /** Strands of which no other drives the stage. */
  readonly soloStrands = new Set<string>();
  /** Strands whose cues are heard as clicks. */
  readonly clicking = new Set<string>();
  private comparing: Tunings | undefined;
  private looking: Scene | undefined;
  private readonly player: ScenePlayer;
  private readonly clicks: CueClicks;
  private readonly onChange: (what: "mix" | "scene" | "strands" | "clicks") => void;

  /** @param onChange  called after a change, with what has to follow it */
  constructor(player: ScenePlayer, onChange: (what: "mix" | "scene" | "strands" | "clicks") => void) {
    this.player = player;
    this.onChange = onChange;
    this.clicks = new CueClicks(player.transport);
    player.onFrame((timeS) => {
      this.clicks.update(timeS, this.clickingTracks());
      this.clickAnswers();
    });
  }

  /** True if each cue that an answer takes is heard as a click. */
  hearsAnswers = false;
  private answered = 0;

  setHearsAnswers(hears: boolean): void {
    this.hearsAnswers = hears;
    this.onChange("clicks");
  }

  /** Clicks for the cues that answers have taken since the last frame; a seek brings many at once, which are not heard. */
  private clickAnswers(): void {
    const history = this.player.state.simulation.answering?.history ?? [];
    const fresh = history.length - this.answered;
    this.answered = history.length;
    if (!this.hearsAnswers || fresh <= 0 || fresh > MOST_CLICKS) return;
    this.clicks.clickNow(Math.max(...history.slice(-fresh).map(({ strength }) => strength)));
  }

  get isComparing(): boolean {
    return this.comparing !== undefined;
  }

  /**
   * The scene that is played: the document, an earlier state of it that is looked at, or the document with other tunings
   * while they are compared.
   */
  played(scene: Scene): Scene {
    if (this.looking) return this.looking;
    return this.comparing ? withKeep(scene, this.comparing) : scene;
  }

  /** Plays other tunings instead of the present ones, or the present ones again. Nothing is edited. */
  compare(tunings: Tunings | undefined): void {
    if (this.comparing === tunings) return;
    this.comparing = tunings;
    this.onChange("scene");
  }

  /** Plays an earlier state instead of the document, or the document again. Nothing is edited. */
  lookAt(state: Scene | undefined): void {
    if (this.looking === state) return;
    this.looking = state;
    this.onChange("scene");
  }

  /** Lets only some sounds and buses be heard. */
  setSolo(id: string, isSolo: boolean): void {
    toggle(this.solo, id, isSolo);
    this.onChange("mix");
  }

  /** Lets only some strands drive the stage. */
  setSoloStrand(id: string, isSolo: boolean): void {
    toggle(this.soloStrands, id, isSolo);
    this.player.soloStrandsOnly(new Set(this.soloStrands));
    this.onChange("strands");
  }

  /** Has a strand's cues heard as clicks. */
  setClicking(id: string, isClicking: boolean): void {
    toggle(this.clicking, id, isClicking);
    this.onChange("clicks");
  }

  /** Forgets strands that are gone. */
  follow(scene: Scene): void {
    const alive = new Set(scene.strands.map(({ id }) => id));
    for (const id of this.clicking) if (!alive.has(id)) this.clicking.delete(id);
    const gone = [...this.soloStrands].filter((id) => !alive.has(id));
    if (gone.length === 0) return;
    for (const id of gone) this.soloStrands.delete(id);
    this.player.soloStrandsOnly(new Set(this.soloStrands));
  }

  dispose(): void {
    this.clicks.stop();
  }

  private clickingTracks(): readonly Track[] {
    if (this.clicking.size === 0) return NONE;
    return [...this.clicking].flatMap((id) => this.player.trackOf(id) ?? []);
  }
}

const NONE: readonly Track[] = [];

function toggle(set: Set<string>, id: string, isOn: boolean): void {
  if (isOn) set.add(id);
  else set.delete(id);
}
