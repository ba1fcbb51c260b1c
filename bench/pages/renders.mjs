/**
 * Counts what an edit costs the page: function components that React renders, and milliseconds of script, for each tick
 * of a drag. Prints one line for each kind of drag.
 */

/** Counts the components that rendered, as React's own developer tools do: from the fibers of each commit. */
function countRenders() {
  const PERFORMED_WORK = 1;
  const FUNCTION_COMPONENTS = new Set([0, 11, 14, 15]);
  let count = 0;
  const visit = (fiber) => {
    const before = fiber.alternate;
    const isNew = before === null;
    if (FUNCTION_COMPONENTS.has(fiber.tag) && (isNew || (fiber.flags & PERFORMED_WORK) !== 0)) count++;
    if (isNew || before.child !== fiber.child) {
      for (let child = fiber.child; child; child = child.sibling) visit(child);
    }
  };
  window.__REACT_DEVTOOLS_GLOBAL_HOOK__ = {
    supportsFiber: true,
    inject: () => 1,
    onCommitFiberRoot: (_id, root) => visit(root.current),
    onCommitFiberUnmount: () => {},
  };
  window.renderCount = () => count;
}

const TICKS = 20;

/** Presses an arrow key in a number field for each tick, a frame apart. */
async function drag(page, field) {
  await field.focus();
  // The first change of all also changes what can be undone.
  await field.press("ArrowUp");
  const devtools = await page.context().newCDPSession(page);
  await devtools.send("Performance.enable");
  const script = async () => {
    const { metrics } = await devtools.send("Performance.getMetrics");
    return 1000 * metrics.find(({ name }) => name === "ScriptDuration").value;
  };
  const idle = await page.evaluate(
    () =>
      new Promise((resolve) => {
        const began = performance.now();
        let frames = 0;
        const tick = () =>
          ++frames === 40 ? resolve((performance.now() - began) / 40) : requestAnimationFrame(tick);
        requestAnimationFrame(tick);
      }),
  );
  const [renders, scriptMs] = [await page.evaluate(() => window.renderCount()), await script()];
  for (let tick = 0; tick < TICKS; tick++) {
    await field.press("ArrowUp");
    await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(resolve)));
  }
  const rendered = (await page.evaluate(() => window.renderCount())) - renders;
  const tookMs = (await script()) - scriptMs;
  return { renders: rendered / TICKS, scriptMs: tookMs / TICKS, frameMs: idle };
}

/** @param browser  Chromium; @param address  of a server with the demo data */
export async function measureRenders(browser, address) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(countRenders);
  await page.goto(address);
  await page.getByRole("link", { name: "Regatta Night" }).first().click();
  await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
  await page.getByRole("link", { name: "Stage", exact: true }).click();
  await page.getByRole("button", { name: "Lantern 2", exact: true }).click();
  const position = page.getByRole("region", { name: "Position", exact: true }).getByRole("textbox").first();
  const rest = await drag(page, position);
  await page.getByRole("link", { name: "Strands", exact: true }).click();
  const shaping = await drag(page, page.getByRole("textbox", { name: "Release in ms" }));
  await page.close();
  return { rest, shaping };
}
