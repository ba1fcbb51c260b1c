import { CANVAS_OFFERS } from "@bumbrel/core/program/offers/canvasOffers";
import { loadScripts } from "@bumbrel/core/program/scripts/loadScripts";
import { theScripts } from "@bumbrel/core/program/scripts/scripts";
import { beforeAll, describe, expect, it } from "@jest/globals";
import { stepsBefore } from "./drawing";
import { replay } from "./replay";

beforeAll(async () => {
  await loadScripts();
});

type Did = unknown[];
/** A canvas that notes down what is done with it. */
function notedCanvas(): { canvas: OffscreenCanvasRenderingContext2D; did: Did[] } {
  const did: Did[] = [];
  const gradient = (...made: unknown[]) => ({ addColorStop: (...stop: unknown[]) => made.push(stop), made });
  const canvas = new Proxy(
    {},
    {
      get: (_all, name) => {
        const text = String(name);
        return (...all: unknown[]) => {
          if (text.startsWith("create")) return gradient(text, ...all);
          did.push([text, ...all]);
          return undefined;
        };
      },
      set: (_all, name, value) => {
        did.push([`${String(name)} =`, value]);
        return true;
      },
    },
  );
  return { canvas: canvas as OffscreenCanvasRenderingContext2D, did };
}

function drawn(body: string, pictures: CanvasImageSource[] = []): Did[] {
  const sandbox = new (theScripts().Sandbox)(
    `function draw(canvas: Canvas, frame: Frame, set: any) { ${body} }`,
    {
      kind: "drawing",
      columns: 1,
      sounds: 0,
      bands: 1,
      values: [{ name: "photo", type: "picture" }],
      strands: [],
    },
  );
  sandbox.floats("values").set([pictures.length - 1, 20, 10]);
  sandbox.run(0, 0, 200, 100);
  const { canvas, did } = notedCanvas();
  replay(canvas, sandbox.floats("tape"), sandbox.wordsFrom(0), pictures);
  sandbox.dispose();
  return did;
}

describe("a drawing, from the sandbox to a canvas", () => {
  it("does the same calls with the same numbers and words, in order", () => {
    expect(
      drawn(`canvas.fillStyle = "red"; canvas.fillRect(1, 2, frame.width, frame.height); canvas.save(); canvas.rotate(0.5);
        canvas.fillText("Ahoy", 3, 4); canvas.restore(); canvas.fillStyle = "red"; canvas.lineWidth = 2.5;`),
    ).toEqual([
      ["fillStyle =", "red"],
      ["fillRect", 1, 2, 200, 100],
      ["save"],
      ["rotate", 0.5],
      ["fillText", "Ahoy", 3, 4],
      ["restore"],
      ["fillStyle =", "red"],
      ["lineWidth =", 2.5],
    ]);
  });

  it("does every call that is offered", () => {
    const body = CANVAS_OFFERS.map(({ name, records }) =>
      "value" in records
        ? `canvas.${name} = ${JSON.stringify(records.value)};`
        : `canvas.${name}(${[...(records.words ? ['"t"'] : []), ...Array.from({ length: records.numbers }, (_, i) => i + 1)].join()});`,
    ).join("");
    expect(drawn(body).map(([name]) => name)).toEqual(
      CANVAS_OFFERS.map(({ name, records }) => ("value" in records ? `${name} =` : name)),
    );
  });

  it("replays arcs in their direction, and skips calls that a canvas rejects", () => {
    expect(drawn("canvas.arc(1, 2, 3, 0, 6); canvas.arc(1, 2, 3, 0, 6, true);")).toEqual([
      ["arc", 1, 2, 3, 0, 6, false],
      ["arc", 1, 2, 3, 0, 6, true],
    ]);
  });

  it("makes gradients with their colours, dashes and images", () => {
    const photo = {} as CanvasImageSource;
    const did = drawn(
      `const g = canvas.createLinearGradient(0, 1, 2, 3); g.addColorStop(0, "red"); g.addColorStop(1, "blue"); canvas.strokeStyle = g;
       canvas.setLineDash([4, 2]); canvas.drawImage(set.photo, 0, 0, set.photo.width, set.photo.height);`,
      [photo],
    );
    expect((did[0][1] as { made: unknown }).made).toEqual([
      "createLinearGradient",
      0,
      1,
      2,
      3,
      [0, "red"],
      [1, "blue"],
    ]);
    expect(did.slice(1)).toEqual([
      ["setLineDash", [4, 2]],
      ["drawImage", photo, 0, 0, 20, 10],
    ]);
  });

  it("keeps styles as a canvas does, and begins afresh each time", () => {
    const did = drawn(
      "canvas.lineWidth = 3; canvas.save(); canvas.lineWidth = 9; canvas.restore(); canvas.fillRect(canvas.lineWidth, 0, 1, 1);",
    );
    expect(did.at(-1)).toEqual(["fillRect", 3, 0, 1, 1]);
    expect(drawn("canvas.fillRect(canvas.lineWidth, 0, 1, 1);")).toEqual([["fillRect", 1, 0, 1, 1]]);
  });

  it("does not end in the middle when too much is drawn", () => {
    expect(() => drawn("for (let i = 0; i < 50000; i++) canvas.fillRect(i, 0, 1, 1);")).toThrow("too much");
  });
});

describe("pictures before one that is sought", () => {
  it("are as many as can be seen of them", () => {
    expect(stepsBefore(0, false)).toBe(0);
    expect(stepsBefore(0, true)).toBe(60);
    // 0.9 ^ 53 is less than one of 255 levels.
    expect(stepsBefore(0.9, false)).toBe(53);
    expect(0.95 ** stepsBefore(0.95, true)).toBeLessThan(1 / 255);
  });
});
