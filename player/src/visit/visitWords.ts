import { runningOf } from "@bumbrel/core/document/strands/running";
import { TAPE_UNIT } from "@bumbrel/core/document/take/units";
import type { ScenePlayer } from "../scenePlayer";

/** A caption stays for so long, ms: long enough to read two lines. */
const CAPTION_MS = 4000;
const AIM_PX = 28;

const HIDDEN = {
  position: "absolute",
  width: "1px",
  height: "1px",
  overflow: "hidden",
  clipPath: "inset(50%)",
  whiteSpace: "nowrap",
} as const;
const CAPTION = {
  position: "absolute",
  left: "50%",
  bottom: "12%",
  transform: "translateX(-50%)",
  maxWidth: "80%",
  padding: "0.25em 0.7em",
  borderRadius: "0.4em",
  background: "#050d12e0",
  color: "#f4ecdc",
  textAlign: "center",
  whiteSpace: "pre-line",
  pointerEvents: "none",
} as const;
const AIM = {
  position: "absolute",
  width: `${AIM_PX}px`,
  height: `${AIM_PX}px`,
  margin: `${-AIM_PX / 2}px 0 0 ${-AIM_PX / 2}px`,
  boxSizing: "border-box",
  border: "3px solid #e3b563",
  borderRadius: "50%",
  outline: "2px solid #050d12",
  pointerEvents: "none",
} as const;

/**
 * Everything about a visit that is told in words beside the picture: what is aimed at, read out by screen readers; captions
 * of the sounds that start; and the ring that shows where a press of a key would tap.
 */
export class VisitWords {
  private readonly player: ScenePlayer;
  private readonly spoken = element(HIDDEN, { "aria-live": "polite" });
  private readonly caption = element(CAPTION, { "data-caption": "", hidden: "" });
  private readonly aim = element(AIM, { "data-aim": "", hidden: "" });
  private readonly sounding = new Set<string>();
  /** Zones that the visitor is in. */
  private readonly inside = new Set<string>();
  private captionUntilMs = 0;
  private readonly stop: () => void;
  /** Captions are shown and read out. */
  showsCaptions = false;

  /** @param host  positioned element that the picture fills */
  constructor(player: ScenePlayer, host: HTMLElement) {
    this.player = player;
    host.append(this.aim, this.caption, this.spoken);
    this.stop = player.onFrame(() => this.follow(performance.now()));
  }

  /** The caption that is shown now; empty where there is none. */
  get shownCaption(): string {
    return this.caption.hidden ? "" : (this.caption.textContent ?? "");
  }

  /** Has a screen reader read something out. */
  say(text: string): void {
    if (this.spoken.textContent !== text) this.spoken.textContent = text;
  }

  /** Shows where a press of a key would tap: x and y from 0 (left, top) to 1. */
  showAim(x: number, y: number): void {
    this.aim.style.left = `${x * 100}%`;
    this.aim.style.top = `${y * 100}%`;
    this.aim.hidden = false;
  }

  hideAim(): void {
    this.aim.hidden = true;
  }

  /** Shows the captions of sounds that have started since the last frame. */
  private follow(nowMs: number): void {
    this.tellZones();
    const begun = this.begun();
    if (!this.showsCaptions || (this.captionUntilMs > 0 && nowMs > this.captionUntilMs)) {
      this.caption.hidden = true;
      this.captionUntilMs = 0;
    }
    if (!this.showsCaptions || begun.length === 0) return;
    const before = this.shownCaption === "" ? [] : this.shownCaption.split("\n");
    this.caption.textContent = [...before, ...begun].slice(-2).join("\n");
    this.caption.hidden = false;
    this.captionUntilMs = nowMs + CAPTION_MS;
    this.say(begun.join(". "));
  }

  /** Reads out the label of a zone that the visitor has come into. */
  private tellZones(): void {
    const { state, scene } = this.player;
    const { answering } = state.simulation;
    for (const { id, kind, settings } of scene.objects) {
      if (kind !== "zone" || !settings.spokenLabel) continue;
      const isIn = answering?.insideOf(id).includes("visitor") ?? false;
      if (isIn && !this.inside.has(id)) this.say(String(settings.spokenLabel));
      if (isIn) this.inside.add(id);
      else this.inside.delete(id);
    }
  }

  /** Captions of the sounds that have just begun to be heard. */
  private begun(): string[] {
    const { scene, transport } = this.player;
    return scene.sounds.flatMap((sound) => {
      const { id, caption, heard, muted } = sound;
      if (!caption || !heard || muted) return [];
      const { runs, unitId } = runningOf(scene, sound);
      const isPlaying = transport.stateOf(runs === "tape" ? TAPE_UNIT : unitId) === "playing";
      if (isPlaying === this.sounding.has(id)) return [];
      if (isPlaying) this.sounding.add(id);
      else this.sounding.delete(id);
      return isPlaying ? [caption] : [];
    });
  }

  dispose(): void {
    this.stop();
    for (const one of [this.aim, this.caption, this.spoken]) one.remove();
  }
}

/** A button that switches captions on and off. */
export function captionsButton(words: VisitWords): HTMLButtonElement {
  const button = document.createElement("button");
  button.textContent = "Captions";
  button.setAttribute("aria-pressed", "false");
  button.addEventListener("click", () => {
    words.showsCaptions = !words.showsCaptions;
    button.setAttribute("aria-pressed", String(words.showsCaptions));
  });
  return button;
}

function element(style: Partial<CSSStyleDeclaration>, attributes: Record<string, string>): HTMLElement {
  const made = document.createElement("div");
  Object.assign(made.style, style);
  for (const [name, value] of Object.entries(attributes)) made.setAttribute(name, value);
  return made;
}

/** Help on the keys of each way to meet a scene on a screen. */
export const KEY_HELP = {
  camera: "Arrows aim, Enter or Space taps, N aims at the next thing that answers",
  orbit:
    "Arrows go round it, Page up and down come nearer and farther, Enter taps, N aims at the next thing that answers",
  walk: "W A S D walk, arrows turn, Page up and down look up and down, Enter taps, N looks at the next thing that answers",
  phone: "Arrows tilt, Enter taps, N aims at the next thing that answers",
} as const;
