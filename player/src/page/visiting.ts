import { hasCaptions } from "@bumbrel/core/analyse/needed";
import { flashWarning } from "@bumbrel/core/check/flash";
import type { Scene } from "@bumbrel/core/document/scene";
import { takeFromFile } from "@bumbrel/core/document/take/takeFile";
import { TAPE_UNIT } from "@bumbrel/core/document/take/units";
import type { ScenePlayer } from "../scenePlayer";
import type { Stage } from "../stage/stage";
import type { HeadsetMode, HeadsetVisit } from "../visit/headsetVisit";
import type { PhoneVisit } from "../visit/phoneVisit";
import { captionsButton, KEY_HELP, VisitWords } from "../visit/visitWords";
import { WindowVisit } from "../visit/windowVisit";
import { folded } from "./folded";

/** A kiosk waits so long for a sign of somebody before it is ready for the next, ms; and looks so often. */
const ALONE_MS = 90_000;
const LOOK_MS = 1000;

/** Parts that a page hands to the visit of its scene. */
export interface PageRoom {
  player: ScenePlayer;
  stage: Stage;
  canvas: HTMLCanvasElement;
  /** Place of the buttons that are only sometimes there. */
  offers: HTMLElement;
  prompt: HTMLButtonElement;
  /** A block of data in the page, as bytes; `undefined` when it is not there. */
  bytesOf(id: string): Promise<Uint8Array | undefined>;
  /** The same for what stands at the end of the page: waits until all of it has come. */
  lateBytesOf(id: string): Promise<Uint8Array | undefined>;
  /** Nobody looks after the page: it begins by itself where it may, and is ready for the next visitor after one has gone. */
  isKiosk: boolean;
  /** Told to those who want little motion; then nothing moves before they begin. */
  still: string | undefined;
  /** Tells the visitor something, until they have read it; nothing takes away what stays. */
  tell(message: string, stays?: boolean): void;
}

/**
 * The visit of a delivered scene: it waits for a gesture, plays its demo take until then, and offers the camera and the
 * headset where the scene uses them. What is refused leaves the rest running.
 */
export class PageVisit {
  private readonly room: PageRoom;
  private readonly scene: Scene;
  private inWindow: WindowVisit | undefined;
  private byPhone: PhoneVisit | undefined;
  private inHeadset: HeadsetVisit | undefined;
  private readonly words: VisitWords;

  constructor(room: PageRoom) {
    this.room = room;
    this.scene = room.player.scene;
    room.canvas.tabIndex = 0;
    this.words = new VisitWords(room.player, document.body);
    this.inWindow = this.windowVisit();
  }

  private windowVisit(): WindowVisit {
    const { player, stage, canvas } = this.room;
    return new WindowVisit(player, stage, canvas, this.words);
  }

  /** Shows what the scene has to show before anybody has come, and begins on a gesture. */
  async wait(): Promise<void> {
    const { prompt, player, canvas, isKiosk } = this.room;
    prompt.addEventListener("click", () => void this.begin());
    player.onFrame(() => this.repeatDemo());
    for (const kind of ["pointerdown", "pointermove", "keydown"])
      addEventListener(kind, () => {
        this.seenMs = performance.now();
      });
    if (isKiosk) {
      // Anything that somebody does is a gesture: nobody has to find the button.
      canvas.addEventListener("pointerdown", () => void this.begin());
      addEventListener("keydown", () => void this.begin());
      setInterval(() => this.leaveWhenAlone(), LOOK_MS);
    }
    await this.makeReady();
  }

  /** Waits for the next visitor: with the demo, or still where that is wanted, and a button that begins. */
  private async makeReady(): Promise<void> {
    const { prompt, tell, still, isKiosk, player } = this.room;
    this.isWaiting = true;
    // A scene that flashes says so, and shows nothing of it before.
    const warning = flashWarning(this.scene) ?? still;
    const hasDemo = warning === undefined && (await this.playDemo());
    if (warning !== undefined) tell(warning, true);
    prompt.textContent = warning === undefined ? "Begin" : "Begin all the same";
    prompt.hidden = false;
    prompt.focus();
    // Nobody has to press anything if sound may start without a gesture and there is nothing to show meanwhile.
    if (!isKiosk || hasDemo || warning !== undefined) return;
    await player.transport.whenReady();
    if (player.transport.ensureContext().state === "running") await this.begin();
  }

  /** A kiosk whose visitor has gone is as it was before they came. */
  private leaveWhenAlone(): void {
    if (this.isWaiting || performance.now() - this.seenMs < ALONE_MS || this.inHeadset?.isInside) return;
    const { player, offers } = this.room;
    this.byPhone?.dispose();
    this.byPhone = undefined;
    this.inWindow ??= this.windowVisit();
    this.inWindow.look("camera");
    offers.replaceChildren();
    player.endRun();
    for (const unitId of [TAPE_UNIT, ...player.transport.unitIds]) player.transport.setUnit(unitId, false, 0);
    void this.makeReady();
  }
  private isWaiting = false;
  private seenMs = performance.now();

  /** The chosen take, again and again, until somebody comes; tells whether there is one. */
  private async playDemo(): Promise<boolean> {
    const { scene, room } = this;
    const text =
      scene.takeUse === "demo" && scene.takeId ? await room.bytesOf(`asset-${scene.takeId}`) : undefined;
    if (!text || !this.isWaiting) return false;
    room.player.beginRun(takeFromFile(JSON.parse(new TextDecoder().decode(text))));
    return true;
  }

  private repeatDemo(): void {
    const { player } = this.room;
    if (!player.isReplaying || !player.run) return;
    if (player.run.positionS() > player.currentTake.lengthS) player.beginRun(player.currentTake);
  }

  private async begin(): Promise<void> {
    const { player, prompt, canvas, offers, tell } = this.room;
    if (!this.isWaiting) return;
    this.isWaiting = false;
    this.seenMs = performance.now();
    if (flashWarning(this.scene) ?? this.room.still) tell("", true);
    prompt.hidden = true;
    offers.replaceChildren();
    player.endRun();
    await player.transport.whenReady();
    const take = player.beginRun();
    this.look();
    canvas.focus();
    await this.offer();
    take.tryOut = "window";
  }

  private look(): void {
    const { look } = this.scene.meeting;
    this.inWindow?.look(look);
    if (look === "walk") this.inWindow?.arrive();
  }

  /** Puts up the buttons for what this device can do of what the scene uses. */
  private async offer(): Promise<void> {
    const { meeting } = this.scene;
    this.offerKeys(KEY_HELP[meeting.look]);
    if (hasCaptions(this.scene)) this.room.offers.append(captionsButton(this.words));
    if (meeting.camera !== "none") this.button("Use the camera", (button) => this.useCamera(button));
    if (!meeting.headset && !meeting.room) return;
    const { HeadsetVisit } = await import("../visit/headsetVisit");
    let isOffered = false;
    const modes: [HeadsetMode, boolean, string][] = [
      ["immersive-vr", meeting.headset, "Enter the headset"],
      ["immersive-ar", meeting.room, "Put it into your room"],
    ];
    for (const [mode, isWanted, words] of modes) {
      if (!isWanted || !(await HeadsetVisit.isOffered(mode))) continue;
      this.button(words, (button) => this.enter(mode, button));
      isOffered = true;
    }
    if (!isOffered) return;
    const { comfortFields } = await import("./comfortFields");
    this.room.offers.append(
      comfortFields((comfort) => {
        if (this.inHeadset) this.inHeadset.comfort = comfort;
      }),
    );
  }

  /** Offers help on the keys; screen readers read it with the picture. */
  private offerKeys(help: string): void {
    const { offers, canvas } = this.room;
    canvas.setAttribute("aria-description", help);
    offers.append(folded("Keys", help));
  }

  private button(words: string, onPress: (button: HTMLButtonElement) => Promise<void>): void {
    const button = document.createElement("button");
    button.textContent = words;
    button.addEventListener("click", () => {
      button.disabled = true;
      onPress(button)
        .catch(({ message }: Error) => this.room.tell(message))
        .finally(() => {
          button.disabled = false;
        });
    });
    this.room.offers.append(button);
  }

  private async useCamera(button: HTMLButtonElement): Promise<void> {
    const { room, scene } = this;
    const { PhoneVisit, RealCamera } = await import("./parts/cameraPart");
    // Asked while this is still a gesture: later, devices refuse without asking.
    const refused = await PhoneVisit.askForMotion();
    const side = scene.meeting.camera === "back" ? "back" : "front";
    const finder = await this.finder();
    let camera: Awaited<ReturnType<typeof RealCamera.open>>;
    try {
      camera = await RealCamera.open(side, finder);
    } catch (error) {
      finder?.dispose();
      throw error;
    }
    this.inWindow?.dispose();
    this.inWindow = undefined;
    this.byPhone = new PhoneVisit(room.player, room.stage, room.canvas, this.words);
    room.canvas.setAttribute("aria-description", KEY_HELP.phone);
    this.byPhone.setCamera(camera);
    if (refused) room.tell(refused);
    else this.byPhone.followMotion((message) => room.tell(message));
    button.hidden = true;
    room.player.currentTake.tryOut = "phone";
  }

  /** Finds the person in the camera's picture, if the scene draws anything behind them. */
  private async finder() {
    const { lateBytesOf, tell } = this.room;
    const page = await lateBytesOf("person-page");
    if (!page) return undefined;
    const text = new TextDecoder().decode(page);
    const { PersonFinder, FINDER_FILES } = await import("./parts/personPart");
    const files = async () => {
      const all: Record<string, ArrayBuffer> = {};
      for (const name of FINDER_FILES) {
        const bytes = await lateBytesOf(`person-${name}`);
        if (!bytes) throw new Error(`this page does not carry ${name}`);
        all[name] = bytes.slice().buffer as ArrayBuffer;
      }
      return all;
    };
    return new PersonFinder({ page: { text }, files }, (problem) => {
      if (problem !== undefined) tell(problem);
    });
  }

  private async enter(mode: HeadsetMode, button: HTMLButtonElement): Promise<void> {
    const { room } = this;
    const { HeadsetVisit } = await import("../visit/headsetVisit");
    this.byPhone?.dispose();
    this.byPhone = undefined;
    this.inWindow?.dispose();
    this.inWindow = undefined;
    const onEnd = () => {
      button.hidden = false;
      this.inWindow = this.windowVisit();
      this.look();
    };
    this.inHeadset ??= new HeadsetVisit(room.player, room.stage, onEnd, this.words);
    try {
      await this.inHeadset.enter(mode);
    } catch (error) {
      this.inWindow = this.windowVisit();
      this.look();
      throw error;
    }
    button.hidden = true;
    room.player.currentTake.tryOut = "headset";
    if (this.inHeadset.missing.length > 0) room.tell(this.inHeadset.missing.join(" "));
  }
}
