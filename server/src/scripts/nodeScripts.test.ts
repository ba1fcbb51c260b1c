import { ProgramReader } from "@bumbrel/core/analyse/scripts/programReader";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { defaultShaping } from "@bumbrel/core/strand/shape/shaping";
import { isFull } from "@bumbrel/core/testing/full";
import { HOSTILE_SCRIPTS } from "@bumbrel/core/testing/hostileScripts";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { useScriptThreads } from "../testing/scriptWorker";

let remove: () => void;
beforeAll(async () => {
  remove = await useScriptThreads();
});
afterAll(() => remove());

const SIGNAL = { samples: new Float32Array(48_000) };
const read = (body: string) =>
  new ProgramReader().read(SIGNAL, {
    measure: { ...MEASURES.program.defaults, programId: "p" },
    shaping: defaultShaping("share"),
    code: `function next(moment: Moment, set: Exposed): number { ${body} }`,
  }).numbers;

/** The longest this thread stood still while something was awaited, ms. */
async function longestSilence(work: Promise<unknown>): Promise<number> {
  let longest = 0;
  let before = performance.now();
  const timer = setInterval(() => {
    longest = Math.max(longest, performance.now() - before);
    before = performance.now();
  }, 20);
  await work.catch(() => undefined);
  clearInterval(timer);
  return longest;
}

describe("programs in threads of Node's", () => {
  it("give their numbers", async () => {
    const numbers = await read("return moment.step / 100;");
    expect([numbers.length, numbers[50]]).toEqual([100, 0.5]);
  });

  it.each(HOSTILE_SCRIPTS.filter((_body, i) => i % (isFull ? 8 : 24) === 0))(
    "are ended and say so, and keep nobody waiting: %s",
    async (body) => {
      const reading = read(body);
      const silence = await longestSilence(reading);
      await expect(reading).rejects.toThrow(/stopped|too long|memory|itself without an end/);
      expect(silence).toBeLessThan(1000);
    },
  );

  it("take the thread of no other along", async () => {
    const reader = new ProgramReader();
    const tuning = (body: string) => ({
      measure: { ...MEASURES.program.defaults, programId: "p" },
      shaping: defaultShaping("share"),
      code: `function next(moment: Moment, set: Exposed): number { ${body} }`,
    });
    const hostile = reader.read(SIGNAL, tuning(HOSTILE_SCRIPTS[0])).numbers;
    const calm = reader.read(SIGNAL, tuning("return 0.25;")).numbers;
    await expect(hostile).rejects.toThrow("stopped");
    expect((await calm)[7]).toBe(0.25);
  });

  it("can be given up", async () => {
    const { numbers, cancel } = new ProgramReader().read(
      { samples: new Float32Array(48_000 * 600) },
      {
        measure: { ...MEASURES.program.defaults, programId: "p" },
        shaping: defaultShaping("share"),
        code: "function next(moment: Moment, set: Exposed): number { for (let i = 0; i < 20000; i++); return 1; }",
      },
    );
    setTimeout(cancel, 300);
    await expect(numbers).rejects.toThrow("not needed");
  });
});
