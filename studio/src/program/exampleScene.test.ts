import { parseScene } from "@bumbrel/core/check/readScene";
import { exposedBy } from "@bumbrel/core/kinds/programs";
import { PROGRAM_EXAMPLES, type ProgramExample } from "@bumbrel/core/program/examples";
import { exposedKey } from "@bumbrel/core/program/exposed";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { runScriptsInline } from "@bumbrel/core/testing/inlineScripts";
import { beforeAll, describe, expect, it } from "@jest/globals";
import { exampleScene, exampleTracks, PREVIEW_S } from "./exampleScene";

beforeAll(runScriptsInline);

describe("the preview of a worked program", () => {
  it.each(Object.entries<ProgramExample>(PROGRAM_EXAMPLES))(
    "%s is a valid scene that is given all it asks for, and moves",
    async (_name, example) => {
      const scene = exampleScene(example);
      expect(parseScene(JSON.parse(JSON.stringify(scene)))).toEqual(scene);
      const tracks = await exampleTracks(example);
      for (const { values, width } of tracks.values()) {
        expect(values.length / width).toBeGreaterThanOrEqual((PREVIEW_S + 1) * 100);
        expect(values.every(Number.isFinite)).toBe(true);
      }
      const user = scene.objects.find(({ settings }) => settings.programId === "p");
      if (example.kind === "number") {
        const state = new SceneState(scene);
        state.setTracks(tracks);
        const heights = [1, 2.2, 4.4, 6.9].map((timeS) => {
          state.advanceTo(timeS);
          return [...(state.plan.of("bars")!.at.growth!.each ?? []), state.valueOf("bars", "growth")].join();
        });
        expect(new Set(heights).size).toBeGreaterThan(1);
        return;
      }
      const asked = exposedBy(scene.programs[0]).flatMap(({ name, property }) =>
        property ? [] : [exposedKey(name)],
      );
      expect(Object.keys(user!.links ?? {}).sort()).toEqual(asked.sort());
    },
  );
});
