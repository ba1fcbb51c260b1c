import { describe, expect, it } from "@jest/globals";
import type { ListensTo, Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { seededRandom } from "../dsp/maths/random";
import { finish } from "../dsp/maths/slices";
import { newScene } from "../kinds/create";
import { newClock } from "../sound/clock";
import { newPlace, newSoundBasics, type Sound } from "../sound/kinds";
import { madeSoundData } from "../sound/made";
import type { SoundData } from "../sound/signal";
import { MEASURES, type Measure } from "../strand/measures/table";
import { planNumbers } from "./numbersPlan";
import { analysePlan } from "./planned";
import { analyseScene, trackOf } from "./tracks";

const random = seededRandom(7);
const noise = (seconds: number): SoundData => {
  const mono = Float32Array.from({ length: seconds * 48_000 }, () => random() - 0.5);
  return { channels: [mono], mono };
};
const DATA: Record<string, SoundData> = { song: noise(1.2), voice: noise(0.7), loop: noise(0.4) };
const dataOf = (sound: Pick<Sound, "id">) => DATA[sound.id];

/** A scene with a bus, faders, a place, a loop, a group, a clock, and strands of all these and of each other. */
function harbour(): Scene {
  const scene = newScene("Harbour");
  const file = (id: string, changes: Partial<Sound> = {}) =>
    scene.sounds.push({ ...newSoundBasics(id, id), kind: "file", storedId: `s-${id}`, ...changes } as Sound);
  file("song", { busId: "music", faderDb: -6 });
  file("voice", { busId: "music", place: { ...newPlace(), analysedFollows: true, position: [0, 0, -9] } });
  file("loop", { loops: true, groupId: "group", busId: "music" });
  scene.sounds.push({
    ...newSoundBasics("clock", "Clock"),
    kind: "clock",
    on: true,
    levelDb: -6,
    seconds: 1,
    ...newClock(),
  });
  scene.groups.push({ id: "group", name: "Group", runs: "tape", loops: true });
  scene.buses.push({ id: "music", name: "Music", faderDb: -3, pan: 0, muted: false });
  const strand = (id: string, listensTo: ListensTo, measure?: Measure) => {
    scene.strands.push({ ...newStrand(scene, id, id, listensTo), ...(measure && { measure }) });
  };
  strand("whole", { kind: "bus", id: "music", tap: "after" });
  strand(
    "band",
    { kind: "sound", id: "song", tap: "after" },
    { ...MEASURES.band.defaults, lowHz: 200, highHz: 900 },
  );
  strand("row", { kind: "sound", id: "voice", tap: "before" }, MEASURES.fan.defaults);
  strand("round", { kind: "sound", id: "loop", tap: "before" }, MEASURES.rms.defaults);
  strand("ticks", { kind: "sound", id: "clock", tap: "before" }, MEASURES.beatPhase.defaults);
  strand("both", { kind: "strands", ids: ["row", "band"] }, MEASURES.product.defaults);
  scene.strands[0].cues = { ...scene.strands[0].cues, on: true, mark: 0.2 };
  return scene;
}

const planned = (scene: Scene) =>
  finish(
    analysePlan(planNumbers(scene, scene.strands), (id) => {
      const sound = scene.sounds.find((one) => one.id === id)!;
      return sound.kind === "clock" ? madeSoundData(sound) : dataOf(sound);
    }),
  );

describe("a plan of numbers", () => {
  it("gives the numbers of the scene, to the bit", async () => {
    const scene = harbour();
    const { numbers } = await analyseScene(scene, dataOf, scene.strands);
    const { tracks, failures } = planned(scene);
    expect(failures.size).toBe(0);
    expect([...tracks.keys()].sort()).toEqual(scene.strands.map(({ id }) => id).sort());
    for (const [id, track] of tracks) expect(track).toEqual(trackOf(numbers.get(id)!));
    expect(tracks.get("round")!.loopS).toBe(0.4);
    expect(Math.max(...tracks.get("both")!.values)).toBeGreaterThan(0);
  });

  it("holds as JSON", () => {
    const scene = harbour();
    const plan = planNumbers(scene, scene.strands);
    expect(JSON.parse(JSON.stringify(plan))).toEqual(plan);
    expect(plan.sounds.map(({ id }) => id)).toEqual(["song", "voice", "loop", "clock"]);
  });

  it("leaves out strands that cannot be computed from sounds, and says why", () => {
    const scene = harbour();
    scene.strands.push(
      newStrand(scene, "zone", "Zone", { kind: "zone", id: "z" }),
      newStrand(scene, "lost", "Lost", { kind: "sound", id: "gone", tap: "before" }),
      newStrand(scene, "self", "Self", { kind: "strands", ids: ["self"] }),
    );
    const { left } = planNumbers(scene, scene.strands);
    expect(left.map(({ id, why }) => [id, why])).toEqual([
      ["self", "It is made of itself."],
      ["zone", "It reads a zone."],
      ["lost", "What it listens to is gone."],
    ]);
  });

  it("says which sound or strand is missing, and computes the others", () => {
    const scene = harbour();
    const lost = finish(
      analysePlan(planNumbers(scene, scene.strands), (id) =>
        id === "voice" ? undefined : (DATA[id] ?? noise(1)),
      ),
    );
    expect(lost.failures.get("row")).toMatch(/sound "voice"/);
    expect(lost.failures.get("both")).toMatch(/strand "row"/);
    expect([...lost.tracks.keys()]).toContain("band");
  });
});
