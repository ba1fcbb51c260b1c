/** Looks through a plain scene of ten seconds in Deliver: how long that takes against the scene's own length. */

const LENGTH_S = 10;
/** Objects that every scene has; a ball is put among them. */
const KEPT = new Set(["camera", "backdrop", "environment", "lens", "world", "sunLight", "ground"]);

/** @param browser  Chromium; @param address  of a server with the demo data */
export async function measureLookThrough(browser, address) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.setDefaultTimeout(300_000);
  const { projects } = await (await page.request.get(`${address}/api/projects`)).json();
  const shed = projects.find(({ name }) => name === "Tuning Shed");
  const { scene } = await (await page.request.get(`${address}/api/projects/${shed.id}`)).json();
  const { id } = await (
    await page.request.post(`${address}/api/projects`, { data: { scene: plain(scene) } })
  ).json();
  await page.goto(`${address}/projects/${id}/deliver`);
  await page.waitForFunction(() => window.bumbrel?.isLoaded());
  // The server prepares its examples in its first seconds.
  await page.waitForTimeout(15_000);
  const began = performance.now();
  await page.getByRole("button", { name: /^Look through/ }).click();
  await page.getByRole("button", { name: "Stop looking" }).waitFor();
  await page.getByRole("button", { name: "Stop looking" }).waitFor({ state: "detached" });
  const tookS = (performance.now() - began) / 1000;
  await page.close();
  return `${(tookS / LENGTH_S).toFixed(2)} times its length of ${LENGTH_S} s`;
}

function plain(scene) {
  const objects = scene.objects
    .filter(({ kind }) => KEPT.has(kind))
    .map((object) => ({ ...object, parentId: null }));
  const ball = { id: "ball", name: "Ball", kind: "sphere", parentId: null, hidden: false, locked: false };
  const tone = scene.sounds.find(({ kind }) => kind === "tone");
  const nothing = { bindings: [], answers: [], strands: [], keeps: [], programs: [], assets: [] };
  return {
    ...scene,
    ...nothing,
    name: "Plain",
    objects: [...objects, { ...ball, settings: {}, rest: {} }],
    marks: [],
    groups: [],
    buses: [],
    takeId: null,
    sounds: [{ ...tone, seconds: LENGTH_S, busId: null, groupId: null, runs: "tape", loops: false }],
  };
}
