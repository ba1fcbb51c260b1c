import { flashWarning } from "@bumbrel/core/check/flash";
import type { Scene } from "@bumbrel/core/document/scene";
import { Take } from "@bumbrel/core/document/take";
import type { ScenePlayer } from "../scenePlayer";
import type { Stage } from "../stage/stage";
import type { HeadsetMode, HeadsetVisit } from "../visit/headsetVisit";
import type { PhoneVisit } from "../visit/phoneVisit";
import { WindowVisit } from "../visit/windowVisit";

/** What a page hands to the visit of its scene. */
export interface PageRoom {
  player: ScenePlayer;
  stage: Stage;
  canvas: HTMLCanvasElement;
  /** Where buttons are put that are only sometimes there. */
  offers: HTMLElement;
  prompt: HTMLButtonElement;
  /** A block of data in the page, as bytes; `undefined` when it is not there. */
  bytesOf(id: string): Promise<Uint8Array | undefined>;
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

  constructor(room: PageRoom) {
    this.room = room;
    this.scene = room.player.scene;
    room.canvas.tabIndex = 0;
    this.inWindow = new WindowVisit(room.player, room.stage, room.canvas);
  }

  /** Shows what the scene has to show before anybody has come, and begins on a gesture. */
  wait(): void {
    const { prompt, player } = this.room;
    // A scene that flashes says so, and shows nothing of it before.
    const warning = flashWarning(this.scene);
    if (warning === undefined) void this.playDemo();
    else this.room.tell(warning, true);
    prompt.textContent = warning === undefined ? "Begin" : "Begin all the same";
    prompt.hidden = false;
    prompt.focus();
    prompt.addEventListener("click", () => {
      if (warning !== undefined) this.room.tell("", true);
      void this.begin();
    });
    player.onFrame(() => this.repeatDemo());
  }

  /** The chosen take, again and again, until somebody comes. */
  private async playDemo(): Promise<void> {
    const { scene, room } = this;
    const text =
      scene.takeUse === "demo" && scene.takeId ? await room.bytesOf(`asset-${scene.takeId}`) : undefined;
    if (!text) return;
    room.player.beginRun(Take.fromFile(JSON.parse(new TextDecoder().decode(text))));
  }

  private repeatDemo(): void {
    const { player } = this.room;
    if (!player.isReplaying || !player.run) return;
    if (player.run.positionS() > player.currentTake.lengthS) player.beginRun(player.currentTake);
  }

  private async begin(): Promise<void> {
    const { player, prompt, canvas } = this.room;
    prompt.hidden = true;
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
    if (meeting.camera !== "none") this.button("Use the camera", (button) => this.useCamera(button));
    if (!meeting.headset && !meeting.room) return;
    const { HeadsetVisit } = await import("../visit/headsetVisit");
    const modes: [HeadsetMode, boolean, string][] = [
      ["immersive-vr", meeting.headset, "Enter the headset"],
      ["immersive-ar", meeting.room, "Put it into your room"],
    ];
    for (const [mode, isWanted, words] of modes) {
      if (!isWanted || !(await HeadsetVisit.isOffered(mode))) continue;
      this.button(words, (button) => this.enter(mode, button));
    }
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
    const { PhoneVisit, RealCamera } = await import("./cameraPart");
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
    this.byPhone = new PhoneVisit(room.player, room.stage, room.canvas);
    this.byPhone.setCamera(camera);
    const refused = await this.byPhone.followMotion();
    if (refused) room.tell(refused);
    button.hidden = true;
    room.player.currentTake.tryOut = "phone";
  }

  /** Finds the person in the camera's picture, if the scene draws anything behind them. */
  private async finder() {
    const { bytesOf, tell } = this.room;
    const page = await bytesOf("person-page");
    if (!page) return undefined;
    const text = new TextDecoder().decode(page);
    const { PersonFinder, FINDER_FILES } = await import("./personPart");
    const files = async () => {
      const all: Record<string, ArrayBuffer> = {};
      for (const name of FINDER_FILES) {
        const bytes = await bytesOf(`person-${name}`);
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
    this.inHeadset ??= new HeadsetVisit(room.player, room.stage, () => {
      button.hidden = false;
      this.inWindow = new WindowVisit(room.player, room.stage, room.canvas);
      this.look();
    });
    try {
      await this.inHeadset.enter(mode);
    } catch (error) {
      this.inWindow = new WindowVisit(room.player, room.stage, room.canvas);
      this.look();
      throw error;
    }
    button.hidden = true;
    room.player.currentTake.tryOut = "headset";
    for (const one of this.inHeadset.missing) room.tell(one);
  }
}
