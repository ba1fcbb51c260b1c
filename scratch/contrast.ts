import type { ObjectKind, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newObject, newProject } from "@bumbrel/core/kinds/create";
import { changePalette, paintNew } from "@bumbrel/core/kinds/palette";
import { placeNew } from "@bumbrel/core/kinds/placeNew";
import { kindOf, OBJECT_KIND_NAMES } from "@bumbrel/core/kinds/table";
import { PALETTE_IDS, PALETTES } from "@bumbrel/core/setting/palettes";
import "../e2e/stagePage";

const [W, H] = [192, 144];
const SHOWN = OBJECT_KIND_NAMES.filter((kind) => {
  const { shelf } = kindOf(kind);
  return shelf !== undefined && shelf !== "lights" && !["model", "ground", "water"].includes(kind);
});
function newOn(kind: ObjectKind, more: (scene: Scene) => void = () => {}) {
  const scene = newProject("Quay");
  scene.quality = "plain";
  scene.objects = scene.objects.filter(({ id }) => id !== "floor");
  more(scene);
  const object = newObject("it", kind, "It");
  paintNew(scene, object);
  placeNew(scene.objects, object);
  scene.objects.push(object);
  return { scene, object };
}
const lin = (b: number) => {
  const s = b / 255;
  return s <= 0.04045 ? s / 12.92 : ((s + 0.055) / 1.055) ** 2.4;
};
const lum = (im: number[], p: number) =>
  0.2126 * lin(im[p * 4]) + 0.7152 * lin(im[p * 4 + 1]) + 0.0722 * lin(im[p * 4 + 2]);
(window as any).run = async (tweakText: string, kinds?: string[]) => {
  const tweak = new Function("scene", tweakText) as (s: Scene) => void;
  const rows: string[] = [];
  for (const palette of PALETTE_IDS) {
    const line: string[] = [];
    let empty: number[] | undefined;
    for (const kind of (kinds ?? SHOWN) as ObjectKind[]) {
      const { scene, object } = newOn(kind, (made) => {
        changePalette(made, palette, 1);
        tweak(made);
      });
      const seen = await window.drawOnShared(scene, 120, 0, W, H);
      if (!empty) {
        object.hidden = true;
        empty = await window.drawOnShared(scene, 120, 0, W, H);
      }
      const px: number[] = [];
      for (let i = 0; i < seen.length; i += 4)
        if (Math.max(...[0, 1, 2].map((c) => Math.abs(seen[i + c] - empty![i + c]))) >= 4) px.push(i / 4);
      const cs = px
        .map((p) => {
          const a = lum(seen, p) + 0.05,
            b = lum(empty!, p) + 0.05;
          return Math.max(a, b) / Math.min(a, b);
        })
        .sort((a, b) => a - b);
      const q = (s: number) => cs[Math.min(cs.length - 1, Math.floor(s * cs.length))]?.toFixed(1);
      const mean = px.reduce((s, p) => s + lum(seen, p), 0) / px.length + 0.05,
        mb = px.reduce((s, p) => s + lum(empty!, p), 0) / px.length + 0.05;
      line.push(`${kind}:${(Math.max(mean, mb) / Math.min(mean, mb)).toFixed(1)}/${q(0.5)}/${q(0.9)}`);
    }
    rows.push(palette + "  " + line.join(" "));
  }
  return rows.join("\n");
};
