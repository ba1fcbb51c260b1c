import { newAnswer, newCueSource } from "@bumbrel/core/action/answer";
import type { Scene } from "@bumbrel/core/document/scene";
import { restingPose } from "@bumbrel/core/document/take/poses";
import { Take } from "@bumbrel/core/document/take/take";
import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { describe, expect, it, jest } from "@jest/globals";
import { Mesh, MeshBasicMaterial, PerspectiveCamera, Scene as Scene3D, SphereGeometry, Vector3 } from "three";
import type { ScenePlayer } from "../scenePlayer";
import type { Stage } from "../stage/stage";
import { PhoneVisit } from "./phoneVisit";
import { Pointing } from "./pointer";
import type { VisitWords } from "./visitWords";
import { WindowVisit } from "./windowVisit";

const [WIDTH, HEIGHT] = [800, 400];
/** The middle of the image, where the lamp is. */
const MIDDLE = { clientX: WIDTH / 2, clientY: HEIGHT / 2 };
const CORNER = { clientX: 30, clientY: 20 };

/** A place for pointers and keys, as a browser's element is one. */
class Place extends EventTarget {
  readonly clientHeight = HEIGHT;
  captured: number | undefined;
  getBoundingClientRect() {
    return { left: 0, top: 0, width: WIDTH, height: HEIGHT };
  }
  setPointerCapture(pointerId: number) {
    this.captured = pointerId;
  }
  send(type: string, values: object = {}) {
    const event = new Event(type, { cancelable: true });
    Object.assign(event, {
      ...{ button: 0, buttons: 1, pointerId: 1, pointerType: "mouse", movementX: 0, movementY: 0 },
      ...values,
    });
    this.dispatchEvent(event);
    return event;
  }
}

/** A scene with a lamp before the camera, and what a visit needs of player and stage. */
function quay(prepare: (scene: Scene) => void = () => {}) {
  const scene = newScene("Quay");
  const lamp = newObject("lamp", "sphere", "Lamp");
  scene.objects.push(lamp);
  scene.objects.find(({ kind }) => kind === "world")!.settings.arriveAt = [1, 0, 6];
  prepare(scene);
  const camera = new PerspectiveCamera(50, WIDTH / HEIGHT);
  camera.position.set(0, 1, 5);
  camera.updateMatrixWorld();
  const root = new Mesh(new SphereGeometry(0.5), new MeshBasicMaterial());
  root.position.set(0, 1, 0);
  const three = new Scene3D();
  three.add(root);
  let frame: (nowMs: number) => void = () => {};
  const state = new SceneState(scene);
  const run = { isPaused: false, atS: 0, positionS: () => run.atS };
  const player = {
    scene,
    state,
    run: run as typeof run | undefined,
    isReplaying: false,
    currentTake: new Take(),
    nextStep: 1,
    beforeFrame(call: typeof frame) {
      frame = call;
      return () => {
        frame = () => {};
      };
    },
  };
  const stage = {
    three,
    camera,
    sceneCamera: camera,
    looker: undefined as PerspectiveCamera | undefined,
    cameraLayers: undefined,
    redraws: 0,
    redraw: () => void stage.redraws++,
    entries: new Map([["lamp", { rendered: { root }, source: { object: lamp } }]]),
  };
  const place = new Place();
  let [nowMs, step] = [0, 0];
  return {
    player,
    stage,
    place,
    run,
    take: () => player.currentTake,
    parts: [player as unknown as ScenePlayer, stage as unknown as Stage] as const,
    element: place as unknown as HTMLElement,
    /** Lets frames pass, 20 ms each. */
    frames(count: number) {
      for (let i = 0; i < count; i++) {
        nowMs += 20;
        step += 2.4;
        player.nextStep = Math.floor(step) + 1;
        run.atS = step / 120;
        frame(nowMs);
      }
    },
  };
}

const RAY = { from: [0, 1, 5] as [number, number, number], way: [0, 0, -1] as [number, number, number] };

describe("a press", () => {
  it("is a tap when it is short and stands still, with the point it hit to the millimetre", () => {
    const { parts, take } = quay();
    const pointing = new Pointing(...parts, "pointer");
    pointing.down(RAY, 1000, [10, 10]);
    expect(pointing.hit?.objectId).toBe("lamp");
    pointing.moved([14, 10]);
    pointing.up(1300);
    expect(take().events).toEqual([
      { kind: "tap", step: 1, by: "pointer", objectId: "lamp", copy: 0, point: [0, 1, 0.5], ...RAY },
    ]);
  });

  it("is none when it is long, moves away, is cancelled or comes before the run", () => {
    const { parts, take, player } = quay();
    const pointing = new Pointing(...parts, "left");
    pointing.down(RAY, 0);
    pointing.up(451);
    pointing.down(RAY, 1000, [0, 0]);
    pointing.moved([9, 0]);
    pointing.up(1100);
    pointing.down(RAY, 2000);
    pointing.cancel();
    pointing.up(2050);
    player.run = undefined;
    pointing.down(RAY, 3000);
    pointing.up(3050);
    expect(take().events).toEqual([]);
  });

  it("tells every tenth of a second that it is held", () => {
    const { parts, take } = quay();
    const pointing = new Pointing(...parts, "right");
    pointing.down(RAY, 0);
    for (const nowMs of [50, 99, 120, 350]) pointing.update(nowMs);
    expect(take().events.map((event) => event.kind === "hold" && event.heldMs)).toEqual([100, 200, 300]);
  });

  it("points at nothing five metres away where nothing is", () => {
    const { parts, take } = quay();
    const pointing = new Pointing(...parts, "pointer");
    pointing.down({ from: [0, 1, 5], way: [0, 1, 0] }, 0);
    pointing.up(10);
    expect(take().events[0]).toMatchObject({ objectId: null, point: [0, 6, 5] });
  });

  it("reports once that it is over something that can be touched", () => {
    const { parts, take, player } = quay();
    const pointing = new Pointing(...parts, "pointer");
    pointing.over(RAY);
    expect(take().events).toEqual([]);
    player.scene.answers.push(newAnswer("a", "Touch", newCueSource("touch", { objectId: "lamp" }), []));
    for (let i = 0; i < 3; i++) pointing.over(RAY);
    pointing.over({ from: [0, 1, 5], way: [0, 1, 0] });
    pointing.over(RAY);
    expect(take().events.map(({ kind }) => kind)).toEqual(["over", "over"]);
  });
});

describe("a visit in a window", () => {
  it("walks by keys at the world's speed, and records the head thirty times a second", () => {
    const { parts, element, place, frames, take, stage } = quay();
    const visit = new WindowVisit(...parts, element);
    visit.look("walk");
    expect(stage.looker?.position.toArray()).toEqual([1, 1.6, 6]);
    frames(1);
    place.send("keydown", { code: "KeyW", key: "w" });
    frames(50);
    place.send("keyup", { code: "KeyW", key: "w" });
    frames(10);
    // A second at 1.6 m/s, away from the viewer.
    expect(visit.walker.z).toBeCloseTo(6 - 1.6, 6);
    expect(stage.looker!.position.z).toBeCloseTo(4.4, 6);
    const { head } = take().poses;
    expect(head.count).toBeGreaterThan(25);
    expect(head.count).toBeLessThan(34);
    const pose = restingPose();
    head.at(head.lastStep, pose);
    expect(pose.z).toBeCloseTo(4.4, 2);
    expect(pose.y).toBeCloseTo(1.6, 2);
    visit.dispose();
    expect(stage.looker).toBeUndefined();
  });

  it("turns the head by dragging, and stands still while the run is paused", () => {
    const { parts, element, place, frames, run } = quay();
    const visit = new WindowVisit(...parts, element);
    visit.look("walk");
    frames(1);
    place.send("pointerdown", MIDDLE);
    expect(place.captured).toBe(1);
    place.send("pointermove", { ...MIDDLE, movementX: -100, movementY: 50 });
    place.send("pointerup", MIDDLE);
    // 120° over the whole height of 400 pixels.
    expect([visit.walker.yaw, visit.walker.pitch]).toEqual([30, -15]);
    place.send("pointermove", { ...MIDDLE, movementX: -100 });
    expect(visit.walker.yaw).toBe(30);
    run.isPaused = true;
    place.send("keydown", { code: "KeyW", key: "w" });
    frames(20);
    expect(visit.walker.z).toBe(6);
  });

  it("is steered by a finger in the lower left, and stops when it is lifted", () => {
    const { parts, element, place, frames, take } = quay();
    const visit = new WindowVisit(...parts, element);
    visit.look("walk");
    frames(1);
    const finger = { pointerId: 7, pointerType: "touch" };
    place.send("pointerdown", { ...finger, clientX: 100, clientY: 350 });
    place.send("pointermove", { ...finger, clientX: 100, clientY: 250 });
    frames(25);
    expect(visit.walker.z).toBeCloseTo(6 - 0.8, 6);
    place.send("pointerup", { ...finger, clientX: 100, clientY: 250 });
    frames(25);
    expect(visit.walker.z).toBeCloseTo(6 - 0.8, 6);
    expect(take().events).toEqual([]);
  });

  it("records keys that answers ask for, once while they are held, and taps", () => {
    const { parts, element, place, player, take } = quay((scene) => {
      scene.answers.push(newAnswer("a", "Jump", newCueSource("key", { key: "Space" }), []));
    });
    new WindowVisit(...parts, element);
    expect(place.send("keydown", { code: "Space", key: " ", repeat: false }).defaultPrevented).toBe(true);
    place.send("keydown", { code: "Space", key: " ", repeat: true });
    expect(place.send("keydown", { code: "KeyX", key: "x" }).defaultPrevented).toBe(false);
    place.send("keydown", { code: "Space", key: " ", ctrlKey: true });
    place.send("pointerdown", MIDDLE);
    place.send("pointerup", MIDDLE);
    place.send("pointerdown", { ...CORNER, button: 2 });
    place.send("pointerup", CORNER);
    expect(take().events.map((event) => [event.kind, "objectId" in event && event.objectId])).toEqual([
      ["key", false],
      ["tap", "lamp"],
    ]);
    player.isReplaying = true;
    place.send("keydown", { code: "Space", key: " " });
    place.send("pointerdown", MIDDLE);
    place.send("pointerup", MIDDLE);
    expect(take().events).toHaveLength(2);
  });

  it("looks with the eye of a take that is played again", () => {
    const { parts, element, frames, player, stage } = quay();
    const take = new Take();
    for (let step = 0; step <= 120; step += 4)
      take.poses.head.record(step, { ...restingPose(), y: 1.6, z: 4 - step / 60, yaw: 20 });
    Object.assign(player, { isReplaying: true, currentTake: take });
    new WindowVisit(...parts, element);
    frames(25);
    // Half a second: half of 2 m.
    expect(stage.looker!.position.z).toBeCloseTo(3, 1);
    expect(stage.looker!.rotation.y).toBeCloseTo((20 * Math.PI) / 180, 2);
  });
});

describe("a visit by phone", () => {
  /** Direction of the phone's eye, as yaw and pitch in degrees. */
  const looks = (eye: PerspectiveCamera) => {
    const way = eye.getWorldDirection(new Vector3());
    return [Math.atan2(-way.x, -way.z), Math.asin(way.y)].map((angle) => (angle * 180) / Math.PI);
  };

  it("tilts by dragging and by keys, to 60° at most, and is held level again", () => {
    const { parts, element, place, frames, stage } = quay();
    const visit = new PhoneVisit(...parts, element);
    frames(1);
    place.send("pointerdown", CORNER);
    place.send("pointermove", { ...CORNER, movementX: 80, movementY: -40 });
    place.send("pointerup", CORNER);
    frames(1);
    // 90° over the whole height of 400 pixels.
    const [yaw, pitch] = looks(stage.looker!);
    expect(yaw).toBeCloseTo(18, 6);
    expect(pitch).toBeCloseTo(-9, 6);
    place.send("keydown", { code: "ArrowLeft" });
    frames(25);
    place.send("keyup", { code: "ArrowLeft" });
    expect(visit.tilt.yaw).toBeCloseTo(18 + 20, 6);
    place.send("keydown", { code: "ArrowUp" });
    frames(400);
    place.send("blur");
    expect(visit.tilt.pitch).toBe(60);
    visit.level();
    frames(1);
    expect(looks(stage.looker!)[0]).toBeCloseTo(0, 6);
    visit.dispose();
    place.send("keydown", { code: "ArrowLeft" });
    frames(10);
    expect(visit.tilt.yaw).toBe(0);
  });

  it("records its tilt, and tilts as the take says in a replay", () => {
    const live = quay();
    const visit = new PhoneVisit(...live.parts, live.element);
    live.place.send("keydown", { code: "ArrowRight" });
    live.frames(50);
    live.place.send("keyup", { code: "ArrowRight" });
    live.frames(5);
    const tilted = visit.tilt.yaw;
    expect(tilted).toBeCloseTo(-39.2, 1);
    const again = quay();
    Object.assign(again.player, { isReplaying: true, currentTake: live.take() });
    const replayed = new PhoneVisit(...again.parts, again.element);
    again.frames(25);
    expect(replayed.tilt.yaw).toBeCloseTo(tilted / 2, -0.5);
    again.frames(30);
    expect(Math.abs(replayed.tilt.yaw - tilted)).toBeLessThan(0.2);
  });

  it("says so where there is no motion to follow, or it is refused", async () => {
    expect(await PhoneVisit.askForMotion()).toContain("does not tell");
    const device = (requestPermission: () => Promise<string>) =>
      Object.assign(globalThis, { DeviceOrientationEvent: { requestPermission } });
    device(async () => "denied");
    expect(await PhoneVisit.askForMotion()).toContain("Motion was refused. Dragging tilts the view.");
    device(async () => {
      throw new Error("no gesture");
    });
    expect(await PhoneVisit.askForMotion()).toContain("refused");
    device(async () => "granted");
    expect(await PhoneVisit.askForMotion()).toBeUndefined();
    Reflect.deleteProperty(globalThis, "DeviceOrientationEvent");
  });

  it("says so where a device that may tell of its motion does not", () => {
    jest.useFakeTimers();
    const { parts, element } = quay();
    const told: string[] = [];
    const before = globalThis.addEventListener;
    Object.assign(globalThis, { addEventListener: () => {} });
    new PhoneVisit(...parts, element).followMotion((message) => told.push(message));
    jest.advanceTimersByTime(1900);
    expect(told).toEqual([]);
    jest.advanceTimersByTime(200);
    expect(told).toEqual(["This device does not tell how it is tilted. Dragging tilts the view."]);
    Object.assign(globalThis, { addEventListener: before });
    jest.useRealTimers();
  });
});

/** Notes what a visit tells in words. */
function notedWords() {
  const said: string[] = [];
  const noted = { aim: undefined as number[] | undefined, said };
  const words = {
    say: (text: string) => said.push(text),
    showAim: (...at: number[]) => {
      noted.aim = at;
    },
    hideAim: () => {
      noted.aim = undefined;
    },
  };
  return { noted, words: words as unknown as VisitWords };
}
const answersTaps = (scene: Scene) => {
  scene.answers.push(newAnswer("a", "Tap", newCueSource("tap", { objectId: "lamp" }), []));
};

describe("a visit by keyboard", () => {
  it("taps the object in the middle, and holds it as long as the key is down", () => {
    const { parts, element, place, take } = quay();
    new WindowVisit(...parts, element);
    expect(place.send("keydown", { code: "Enter", key: "Enter" }).defaultPrevented).toBe(true);
    place.send("keydown", { code: "Enter", key: "Enter", repeat: true });
    place.send("keyup", { code: "Enter", key: "Enter" });
    expect(take().events).toMatchObject([{ kind: "tap", objectId: "lamp", by: "pointer" }]);
  });

  it("leaves a key that an answer asks for to the answer", () => {
    const { parts, element, place, take } = quay((scene) => {
      scene.answers.push(newAnswer("a", "Jump", newCueSource("key", { key: "Enter" }), []));
    });
    new WindowVisit(...parts, element);
    place.send("keydown", { code: "Enter", key: "Enter" });
    place.send("keyup", { code: "Enter", key: "Enter" });
    expect(take().events.map(({ kind }) => kind)).toEqual(["key"]);
    place.send("keydown", { code: "Space", key: " " });
    place.send("keyup", { code: "Space", key: " " });
    expect(take().events.map(({ kind }) => kind)).toEqual(["key", "tap"]);
  });

  it("turns the head by the arrows at 75° a second, and looks up and down", () => {
    const { parts, element, place, frames } = quay();
    const visit = new WindowVisit(...parts, element);
    visit.look("walk");
    frames(1);
    place.send("keydown", { code: "ArrowLeft", key: "ArrowLeft" });
    place.send("keydown", { code: "PageDown", key: "PageDown" });
    frames(20);
    place.send("keyup", { code: "ArrowLeft", key: "ArrowLeft" });
    place.send("keyup", { code: "PageDown", key: "PageDown" });
    frames(5);
    expect(visit.walker.yaw).toBeCloseTo(30, 6);
    expect(visit.walker.pitch).toBeCloseTo(-30, 6);
    expect([visit.walker.x, visit.walker.z]).toEqual([1, 6]);
  });

  it("looks at the next thing that answers, and reads out its label and what it answers", () => {
    const { parts, element, place, frames, stage, player } = quay(answersTaps);
    const { noted, words } = notedWords();
    const visit = new WindowVisit(...parts, element, words);
    player.scene.objects.find(({ id }) => id === "lamp")!.settings.spokenLabel = "The harbour lamp";
    visit.look("walk");
    visit.walker.turn(150, 0);
    frames(1);
    place.send("keydown", { code: "KeyN", key: "n" });
    expect(noted.said).toEqual(["The harbour lamp, can be tapped"]);
    const way = stage.looker!.getWorldDirection(new Vector3());
    const to = new Vector3(0, 1, 0).sub(stage.looker!.position).normalize();
    expect(way.dot(to)).toBeCloseTo(1, 6);
    expect(noted.aim).toEqual([0.5, 0.5]);
  });

  it("moves the aim where the view stands still, and only to visible objects", () => {
    const { parts, element, place, frames, stage, take } = quay(answersTaps);
    const { noted, words } = notedWords();
    new WindowVisit(...parts, element, words);
    frames(1);
    place.send("keydown", { code: "ArrowRight", key: "ArrowRight" });
    frames(10);
    place.send("keyup", { code: "ArrowRight", key: "ArrowRight" });
    expect(noted.aim![0]).toBeCloseTo(0.6, 6);
    place.send("keydown", { code: "Enter", key: "Enter" });
    place.send("keyup", { code: "Enter", key: "Enter" });
    expect(take().events).toMatchObject([{ kind: "tap", objectId: null }]);
    place.send("keydown", { code: "KeyN", key: "n" });
    expect(noted.aim![0]).toBeCloseTo(0.5, 6);
    expect(noted.said).toEqual(["Lamp, can be tapped"]);
    stage.camera.rotation.y = Math.PI;
    stage.camera.updateMatrixWorld();
    place.send("keydown", { code: "KeyN", key: "n", shiftKey: true });
    expect(noted.said.at(-1)).toBe("Nothing in sight answers.");
    place.send("pointerdown", MIDDLE);
    expect(noted.aim).toBeUndefined();
  });

  it("orbits its target at the same distance, and comes nearer by Page up", () => {
    const { parts, element, place, frames, stage } = quay();
    Object.assign(element, {
      style: {},
      ownerDocument: element,
      getRootNode: () => element,
      clientWidth: WIDTH,
    });
    const visit = new WindowVisit(...parts, element);
    visit.look("orbit");
    const target = new Vector3(0, 1, -5);
    const away = () => stage.looker!.position.distanceTo(target);
    frames(1);
    const before = away();
    place.send("keydown", { code: "ArrowLeft", key: "ArrowLeft" });
    frames(10);
    place.send("keyup", { code: "ArrowLeft", key: "ArrowLeft" });
    expect(away()).toBeCloseTo(before, 6);
    expect(stage.looker!.position.x).toBeGreaterThan(1);
    place.send("keydown", { code: "PageUp", key: "PageUp" });
    frames(10);
    place.send("keyup", { code: "PageUp", key: "PageUp" });
    expect(away()).toBeLessThan(before * 0.95);
  });

  it("tilts a phone by the arrows and taps by Enter", () => {
    const { parts, element, place, frames, take } = quay(answersTaps);
    const { noted, words } = notedWords();
    new PhoneVisit(...parts, element, words);
    frames(1);
    place.send("keydown", { code: "KeyN", key: "n" });
    place.send("keydown", { code: "Enter", key: "Enter" });
    place.send("keyup", { code: "Enter", key: "Enter" });
    expect(noted.said).toEqual(["Lamp, can be tapped"]);
    expect(take().events).toMatchObject([{ kind: "tap", objectId: "lamp" }]);
  });
});
