import { readFile } from "node:fs/promises";
import { build } from "esbuild";
import { launchChromium } from "../tools/browse.mjs";

const { outputFiles } = await build({
  entryPoints: ["/work/main/scratch/pic.ts"],
  bundle: true,
  write: false,
  format: "iife",
  target: "es2022",
  logLevel: "error",
  nodePaths: ["/work/main/node_modules"],
});
const browser = await launchChromium();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on("console", (m) => console.log(m.text()));
page.on("pageerror", (e) => console.log(String(e)));
await page.route("http://font.local/**", async (r) =>
  r.fulfill({ body: await readFile(process.env.FONT), headers: { "access-control-allow-origin": "*" } }),
);
await page.setContent("<!doctype html><body style='background:#000;margin:0'>");
await page.addScriptTag({ content: outputFiles[0].text });
const jobs = JSON.parse(await readFile(process.argv[2], "utf8"));
for (const j of jobs) {
  const s = Date.now();
  const w = j.w ?? 1280,
    h = j.h ?? 800;
  await page.setViewportSize({ width: w, height: h });
  await page.evaluate(([c, w, h, t]) => window.show(c, w, h, t), [j.code, w, h, j.t ?? 2]);
  await page.screenshot({ path: "/tmp/" + j.name + ".png" });
  console.log(j.name, (Date.now() - s) / 1000);
}
await browser.close();
