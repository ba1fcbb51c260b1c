import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { describe, expect, it } from "@jest/globals";
import { openDurable } from "./durable";

describe("openDurable", () => {
  it("waits for the disk at each commit and at a checkpoint, and not for reads", async () => {
    const folder = mkdtempSync(join(tmpdir(), "bumbrel-"));
    let syncs = 0;
    const client = await openDurable(join(folder, "postgres"), () => {
      syncs++;
    });
    expect((await client.query<{ fsync: string }>("show fsync")).rows).toEqual([{ fsync: "on" }]);
    await client.exec("create table t (i int)");
    for (let i = 0; i < 5; i++) {
      const before = syncs;
      await client.query("insert into t values ($1)", [i]);
      expect(syncs).toBeGreaterThan(before);
    }
    const before = syncs;
    expect((await client.query("select * from t")).rows).toHaveLength(5);
    expect(syncs).toBe(before);
    await client.exec("checkpoint");
    expect(syncs).toBeGreaterThan(before + 1);
    await client.close();
    rmSync(folder, { recursive: true });
  });
});
