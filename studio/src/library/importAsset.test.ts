import { AssetFormatError } from "@bumbrel/core/errors";
import { MAX_ASSET_BYTES } from "@bumbrel/core/format/image";
import { readModel } from "@bumbrel/core/format/model";
import { Accessor, Document, NodeIO } from "@gltf-transform/core";
import { beforeEach, describe, expect, it } from "@jest/globals";
import { importAsset as importWith } from "./importAsset";
import type { AssetReader } from "./readAsset";

/** Reads here what a worker reads in the browser; SVGs are drawn there alone. */
const reader: AssetReader = { model: readModel, svg: async () => PNG };
const importAsset = (file: File, kind: "picture" | "model") => importWith(file, kind, undefined, reader);

/** Bytes sent to the server, which keeps them under the id "stored". */
let sent: { url: string; body: Blob }[];
let decodes: boolean;
beforeEach(() => {
  sent = [];
  decodes = true;
  Object.assign(globalThis, {
    fetch: async (url: string, { body }: RequestInit) => {
      sent.push({ url: String(url), body: body as Blob });
      return Response.json({ id: "stored" }, { status: 201 });
    },
    createImageBitmap: async () => {
      if (!decodes) throw new DOMException("no", "InvalidStateError");
      return { close: () => {} };
    },
  });
});

/** 30 × 20 pixels of one grey. */
const PNG = Buffer.from(
  "iVBORw0KGgoAAAANSUhEUgAAAB4AAAAUCAAAAAC/wNIYAAAAE0lEQVR4nGNIwAsYRqVHpaklDQCIXOEBW7pI3gAAAABJRU5ErkJggg==",
  "base64",
);
const fileOf = (bytes: Uint8Array | string, name: string, type = "") =>
  new File([bytes as BlobPart], name, { type });

async function boat(): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const position = document
    .createAccessor()
    .setType(Accessor.Type.VEC3!)
    .setArray(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1]))
    .setBuffer(buffer);
  const indices = document
    .createAccessor()
    .setType(Accessor.Type.SCALAR!)
    .setArray(new Uint16Array([0, 1, 2, 0, 2, 3]))
    .setBuffer(buffer);
  const mesh = document
    .createMesh()
    .addPrimitive(document.createPrimitive().setAttribute("POSITION", position).setIndices(indices));
  document.createScene().addChild(document.createNode("Hull").setMesh(mesh));
  return new NodeIO().writeBinary(document);
}

describe("importing an image", () => {
  it("stores the file as it came and keeps its name and size", async () => {
    const asset = await importAsset(fileOf(PNG, "Lantern paper.png"), "picture");
    expect(asset).toMatchObject({
      kind: "picture",
      name: "Lantern paper",
      storedId: "stored",
      widthPx: 30,
      heightPx: 20,
    });
    expect(sent).toHaveLength(1);
    expect(Buffer.from(await sent[0].body.arrayBuffer()).equals(PNG)).toBe(true);
  });

  it("gives every asset an id of its own", async () => {
    const [one, two] = [
      await importAsset(fileOf(PNG, "a.png"), "picture"),
      await importAsset(fileOf(PNG, "a.png"), "picture"),
    ];
    expect(one.id).not.toBe(two.id);
  });

  it.each([["something else", () => fileOf("Once upon a time", "story.png"), /story\.png/]])(
    "refuses %s, and stores nothing",
    async (_, file, message) => {
      await expect(importAsset(file(), "picture")).rejects.toThrow(message);
      await expect(importAsset(file(), "picture")).rejects.toThrow(AssetFormatError);
      expect(sent).toEqual([]);
    },
  );

  it("keeps an SVG as the pixels that were drawn of it", async () => {
    const asset = await importAsset(fileOf("<svg/>", "sail.svg"), "picture");
    expect(asset).toMatchObject({ name: "sail", widthPx: 30, heightPx: 20 });
    expect(Buffer.from(await sent[0].body.arrayBuffer()).equals(PNG)).toBe(true);
  });

  it("refuses one that begins well and cannot be decoded", async () => {
    decodes = false;
    await expect(importAsset(fileOf(PNG, "torn.png"), "picture")).rejects.toThrow(
      /torn\.png.*cannot be decoded/s,
    );
    expect(sent).toEqual([]);
  });

  it("refuses files over the limit before reading them", async () => {
    const large = Object.defineProperty(fileOf("", "wall.png"), "size", { value: MAX_ASSET_BYTES + 1 });
    await expect(importAsset(large, "picture")).rejects.toThrow(/wall\.png/);
  });
});

describe("importing a model", () => {
  it("keeps the names of its parts and counts its triangles", async () => {
    const asset = await importAsset(fileOf(await boat(), "boat.glb"), "model");
    expect(asset).toMatchObject({ kind: "model", name: "boat", parts: ["Hull"], triangles: 2 });
    expect(sent).toHaveLength(1);
  });

  it("refuses a broken one, and stores nothing", async () => {
    const half = (await boat()).subarray(0, 60);
    await expect(importAsset(fileOf(half, "half.glb"), "model")).rejects.toThrow(/half\.glb/);
    expect(sent).toEqual([]);
  });
});
