import { build } from "esbuild";
import { launchChromium } from "../tools/browse.mjs";

const { outputFiles } = await build({
  entryPoints: ["/work/main/scratch/contrast.ts"],
  bundle: true,
  write: false,
  format: "iife",
  target: "es2022",
  logLevel: "error",
  nodePaths: ["/work/main/node_modules"],
});
const browser = await launchChromium();
const page = await browser.newPage();
page.on("console", (m) => console.log(m.text()));
page.on("pageerror", (e) => console.log(String(e)));
await page.setContent("<!doctype html>");
await page.addScriptTag({ content: outputFiles[0].text });
for (const t of process.argv.slice(2)) {
  const s = Date.now();
  console.log("##", t);
  const [tw, k] = t.split("@");
  console.log(await page.evaluate(([t, k]) => window.run(t, k ? k.split(",") : undefined), [tw, k]));
  console.log((Date.now() - s) / 1000, "s");
}
await browser.close();
