import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { itInFull } from "@bumbrel/core/testing/full";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { bumbrel } from "../testing/testing";

describe("archives on the command line", () => {
  let folder: string;
  const path = (name: string) => join(folder, name);
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), "bumbrel-cli-"));
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  itInFull(
    "write an example, bring it in once, and write it again by its name",
    async () => {
      const made = await bumbrel("export", "--example", "tuning-shed", "--out", path("shed.zip"));
      expect(made).toEqual({ code: 0, out: `${path("shed.zip")}: 1 project\n`, error: "" });
      expect(readFileSync(path("shed.zip")).subarray(0, 2).toString()).toBe("PK");

      const data = ["--data", path("data")];
      const first = await bumbrel("import", path("shed.zip"), ...data);
      expect(first.code).toBe(0);
      const [, id] = /^Tuning Shed: brought in, (\S+)\n$/.exec(first.out) ?? [];
      expect(id).toBeDefined();
      expect(await bumbrel("import", path("shed.zip"), ...data)).toMatchObject({
        code: 0,
        out: `Tuning Shed: here already, ${id}\n`,
      });
      const again = await bumbrel("import", path("shed.zip"), "--again", ...data);
      expect(again.out).toContain("brought in");

      // Two of one name: the id says which.
      const twice = await bumbrel("export", "Tuning Shed", "--out", path("two.zip"), ...data);
      expect(twice.code).toBe(2);
      expect(twice.error).toContain("2 projects are called");
      expect(existsSync(path("two.zip"))).toBe(false);
      expect((await bumbrel("export", id, "--out", path("one.zip"), ...data)).code).toBe(0);
      expect(await bumbrel("export", "--all", "--out", path("all.zip"), ...data)).toMatchObject({
        out: `${path("all.zip")}: 2 projects\n`,
      });
      const none = await bumbrel("export", "Nobody's", "--out", path("none.zip"), ...data);
      expect(none.error).toContain('there is no project "Nobody\'s"');

      // A backup restores on a machine with nothing on it.
      const empty = await bumbrel("import", path("all.zip"), "--data", path("empty"));
      expect(empty.code).toBe(0);
      expect(empty.out.match(/Tuning Shed/g)).toHaveLength(2);
      // Each of eight commands opens a database of its own.
    },
    180_000,
  );

  it("say what cannot be done", async () => {
    expect((await bumbrel("import", path("nowhere.zip"))).error).toContain("there is no such file");
    writeFileSync(path("text.zip"), "not an archive");
    const refused = await bumbrel("import", path("text.zip"), "--data", path("data"));
    expect(refused.code).toBe(2);
    expect(refused.error).toContain("this is no ZIP file");
    expect((await bumbrel("export", "x")).error).toContain("--out is missing");
    expect((await bumbrel("export", "--example", "moon", "--out", path("x.zip"))).error).toContain(
      "use one of regatta-night",
    );
    expect((await bumbrel("export", "x", "--out", path("x.zip"), "--data", path("missing"))).error).toContain(
      "there is no Bumbrel data in this folder",
    );
  });
});
