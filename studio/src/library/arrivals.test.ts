import { describe, expect, it } from "@jest/globals";
import { Arrivals } from "./arrivals";
import type { PreparedFile } from "./prepareFile";

const named = (name: string) => new File(["x"], name);

/** Arrivals whose files are read when a test says so. */
function setUp() {
  const reading = new Map<string, { finish(): void; fail(message: string): void }>();
  const added: string[] = [];
  const arrivals = new Arrivals({
    prepare: (file) =>
      new Promise((resolve, reject) => {
        reading.set(file.name, {
          finish: () => resolve({ is: "file", facts: {}, bytes: file } as unknown as PreparedFile),
          fail: (message) => reject(new Error(message)),
        });
      }),
    store: async (name) => `stored-${name}`,
    add: (name, kind, storedId) => added.push(`${name} ${kind} ${storedId}`),
    replace: (soundId, _kind, storedId) => added.push(`${soundId} = ${storedId}`),
  });
  const settle = () => new Promise((resolve) => setTimeout(resolve));
  const names = () => arrivals.all().map(({ name, stage }) => `${name} ${stage}`);
  return { arrivals, reading, added, settle, names };
}

describe("files on their way in", () => {
  it("each have a row from the start, those of a later batch too", async () => {
    const { arrivals, reading, settle, names } = setUp();
    void arrivals.bring([named("a.wav")]);
    void arrivals.bring([named("b.wav"), named("c.wav"), named("d.wav")]);
    await settle();
    expect(names()).toEqual(["a.wav reading", "b.wav reading", "c.wav reading", "d.wav waiting"]);
    reading.get("b.wav")!.finish();
    await settle();
    expect(names()).toEqual(["a.wav reading", "c.wav reading", "d.wav reading"]);
  });

  it("become sounds, or say what is wrong with them until they are dismissed", async () => {
    const { arrivals, reading, added, settle, names } = setUp();
    void arrivals.bring([named("bell.ogg"), named("horn.wav")]);
    reading.get("bell.ogg")!.finish();
    reading.get("horn.wav")!.fail("horn.wav: it is cut short");
    await settle();
    expect(added).toEqual(["bell file stored-bell"]);
    expect(names()).toEqual(["horn.wav failed"]);
    expect(arrivals.all()[0].message).toMatch(/cut short/);
    arrivals.dismiss(arrivals.all()[0]);
    expect(names()).toEqual([]);
  });

  it("take the place of a sound, and are refused in one row when they are no sounds", async () => {
    const { arrivals, reading, added, settle, names } = setUp();
    void arrivals.bring([named("bell.wav"), named("list.txt"), named("quay.png")], "old");
    reading.get("bell.wav")!.finish();
    await settle();
    expect(added).toEqual(["old = stored-bell"]);
    expect(names()).toEqual(["list.txt failed"]);
    expect(arrivals.all()[0].message).toMatch(/list.txt, quay.png: not a sound/);
  });
});
