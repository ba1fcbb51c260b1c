import { newAction, newAnswer, newCueSource } from "@bumbrel/core/action/answer";
import type { Scene, StageObject } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newObject, newProject } from "@bumbrel/core/kinds/create";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { newSoundBasics, SOUND_KINDS } from "@bumbrel/core/sound/kinds";

/**
 * A small quay to visit: a lamp that is shown by a tap for as long as a hum plays, an arch with a tune of its own, a crate
 * that jumps, and a wall.
 */
export function visitScene(): Scene {
  const scene = newProject("Landing stage");
  scene.quality = "plain";
  const tone = (id: string, name: string, hz: number, seconds: number) =>
    ({
      ...newSoundBasics(id, name),
      kind: "tone",
      ...defaultsOf(SOUND_KINDS.tone.settings),
      hz,
      seconds,
      on: true,
      levelDb: -20,
      runs: "alone",
    }) as unknown as Scene["sounds"][number];
  scene.sounds.push(tone("hum", "Hum", 220, 1.5), tone("tune", "Tune", 330, 20));
  const put = (id: string, kind: StageObject["kind"], rest: object, settings: object = {}) => {
    scene.objects.push({
      ...newObject(id, kind, id),
      rest: { ...rest },
      settings: { ...settings },
    } as StageObject);
  };
  put("lamp", "sphere", { position: [0, 1.2, 0], emissionStrength: 1 });
  put("ring", "torus", { position: [0, 1.2, -1], visibility: 0, emissionStrength: 2 });
  put("arch", "zone", { position: [0, 1.5, 1.5], size: [3, 3, 2] });
  put("crate", "box", { position: [2, 0, 0], size: [0.6, 0.6, 0.6], mass: 4 }, { solid: "moving" });
  put("wall", "box", { position: [0, 0, -3], size: [8, 3, 0.4] }, { solid: "fixed" });
  const strand = newStrand(scene, "full", "Fullness", { kind: "zone", id: "arch" });
  strand.measure = { kind: "fullness" };
  scene.strands.push(strand);
  scene.answers.push(
    newAnswer("tap", "Tap the lamp", newCueSource("tap", { objectId: "lamp" }), [
      newAction("play", { soundId: "hum", from: "start" }),
      newAction("show", { objectId: "ring", does: "show", lasts: "sound", whileId: "hum" }),
    ]),
    newAnswer("in", "Into the arch", newCueSource("enter", { zoneId: "arch" }), [
      newAction("play", { soundId: "tune", from: "where" }),
    ]),
    newAnswer("out", "Out of the arch", newCueSource("leave", { zoneId: "arch" }), [
      newAction("pause", { soundId: "tune" }),
    ]),
    newAnswer("key", "Jump", newCueSource("key", { key: "j" }), [
      newAction("jump", { objectId: "crate", heightM: 0.8 }),
    ]),
  );
  return scene;
}
