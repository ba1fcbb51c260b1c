import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { newScene } from "@bumbrel/core/kinds/create";
import { itInFull } from "@bumbrel/core/testing/full";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { bumbrel } from "../testing/testing";

describe("edits on the command line", () => {
  let folder: string;
  const path = (name: string) => join(folder, name);
  const write = (name: string, value: unknown) => {
    writeFileSync(path(name), typeof value === "string" ? value : JSON.stringify(value));
    return path(name);
  };
  const read = (name: string) => JSON.parse(readFileSync(path(name), "utf8"));
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), "bumbrel-cli-"));
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  const rename = { edit: "renameScene", args: { name: "Mole" } };
  const add = { edit: "addObject", args: { id: "lantern", kind: "sphere" } };

  it("change a scene file in its place, or write another", async () => {
    const scene = write("quay.json", newScene("Quay"));
    const edits = write("edits.json", [rename, add]);
    const other = await bumbrel("edit", scene, "--with", edits, "--out", path("mole.json"));
    expect(other).toEqual({ code: 0, out: "Mole: 2 edits carried out\n", error: "" });
    expect(read("quay.json").name).toBe("Quay");
    expect(read("mole.json").objects.some(({ id }: { id: string }) => id === "lantern")).toBe(true);
    expect((await bumbrel("edit", scene, "--with", edits)).code).toBe(0);
    expect(read("quay.json")).toEqual(read("mole.json"));
    expect((await bumbrel("check", scene)).code).toBe(0);
  });

  it("leave the file as it is when one cannot be carried out, and say which and why", async () => {
    const scene = write("head.json", newScene("Head"));
    const before = readFileSync(scene, "utf8");
    const twice = await bumbrel("edit", scene, "--with", write("twice.json", [rename, add, add]));
    expect(twice.code).toBe(2);
    expect(twice.error).toContain('/2/args/id: the id "lantern" is taken by another object');
    expect((await bumbrel("edit", scene, "--with", write("no.json", "nothing"))).error).toContain(
      "this is no JSON",
    );
    expect((await bumbrel("edit", scene)).error).toContain("--with is missing");
    expect(readFileSync(scene, "utf8")).toBe(before);
  });

  itInFull(
    "change a stored project by its name, and take programs only where that is allowed",
    async () => {
      const data = ["--data", path("data")];
      await bumbrel("export", "--example", "tuning-shed", "--out", path("shed.zip"));
      await bumbrel("import", path("shed.zip"), ...data);
      const code = "function next(): number { return 0.5; }";
      const program = { edit: "addProgram", args: { id: "half", name: "Half", kind: "number", code } };
      const edits = write("project.json", [rename, program]);
      const refused = await bumbrel("edit", "Tuning Shed", "--with", edits, ...data);
      expect(refused).toMatchObject({ code: 2 });
      expect(refused.error).toContain("addProgram brings a program");
      const done = await bumbrel("edit", "Tuning Shed", "--with", edits, "--allow-programs", ...data);
      expect(done).toMatchObject({ code: 0, out: "Mole: 2 edits carried out\n" });
      const gone = await bumbrel("edit", "Tuning Shed", "--with", edits, "--allow-programs", ...data);
      expect(gone.error).toContain('there is no project "Tuning Shed"; there are "Mole"');
    },
    120_000,
  );
});
