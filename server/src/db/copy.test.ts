import { itInFull } from "@bumbrel/core/testing/full";
import { PGlite } from "@electric-sql/pglite";
import { describe, expect, it } from "@jest/globals";
import { copiedRows } from "./copy";

describe("copiedRows", () => {
  itInFull("gives the rows that the database itself copied out", async () => {
    const database = await PGlite.create();
    const { blob } = await database.query(
      "copy (select b from (values ('\\x00ff10'::bytea), ('\\x'), (null)) as v(b)) to '/dev/blob' with (format binary)",
    );
    const copied = new Uint8Array(await blob!.arrayBuffer());
    expect(copiedRows(copied).map((row) => [...row])).toEqual([[0, 255, 16], [], []]);
    expect(() => copiedRows(copied.subarray(0, 27))).toThrow(/cut short/);
    await database.close();
  });

  it("refuses other statements", () => {
    expect(() => copiedRows(new TextEncoder().encode("select 1; and more of it"))).toThrow(/no binary COPY/);
  });
});
