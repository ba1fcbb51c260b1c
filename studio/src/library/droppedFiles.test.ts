import { describe, expect, it } from "@jest/globals";
import { droppedFiles } from "./droppedFiles";

const file = (name: string) => ({
  isFile: true,
  isDirectory: false,
  file: (done: (file: unknown) => void) => done({ name }),
});
const folder = (...batches: unknown[][]) => ({
  isFile: false,
  isDirectory: true,
  createReader: () => {
    const left = [...batches, []];
    return { readEntries: (done: (some: unknown[]) => void) => done(left.shift()!) };
  },
});
const drop = (entries: unknown[], files: unknown[] = []) =>
  ({ items: entries.map((entry) => ({ webkitGetAsEntry: () => entry })), files }) as unknown as DataTransfer;

describe("droppedFiles", () => {
  it("gives the files of folders inside folders, however many at a time they come", async () => {
    const tree = folder([file("a"), folder([file("b")], [file("c")])], [file("d")]);
    const found = await droppedFiles(drop([tree, file("e")]));
    expect(found.map(({ name }) => name)).toEqual(["a", "b", "c", "d", "e"]);
  });

  it("takes plain files as they are", async () => {
    const plain = [{ name: "x" }, { name: "y" }];
    expect(await droppedFiles(drop([file("x"), file("y")], plain))).toEqual(plain);
    expect(await droppedFiles(drop([]))).toEqual([]);
  });
});
