/** Tries scenes in the made-up headset and on the made-up phone, and reads what it costs. */

/** @param browser  Chromium; @param address  of a server with the demo data */
export async function measureVisits(browser, address) {
  // Script costs the same at any size; drawing in software does not.
  const page = await browser.newPage({ viewport: { width: 800, height: 500 } });
  page.setDefaultTimeout(300_000);
  const { projects } = await (await page.request.get(`${address}/api/projects`)).json();
  const idOf = (name) => projects.find((project) => project.name === name).id;
  const headsetMs = await headsetFrame(page, `${address}/projects/${idOf("Regatta Night")}/try`);
  const { scene } = await (await page.request.get(`${address}/api/projects/${idOf("Ferry Card")}`)).json();
  const { id } = await (
    await page.request.post(`${address}/api/projects`, { data: { scene: behindSheet(scene) } })
  ).json();
  const found = await personFound(page, `${address}/projects/${id}/try`);
  await page.close();
  return { headsetMs, found };
}

async function start(page, url, way) {
  await page.goto(url);
  await page.waitForFunction(() => window.bumbrel?.isLoaded());
  await page.getByRole("button", { name: way, exact: true }).click();
}

/** The figure that the view itself shows, once it has settled. */
async function headsetFrame(page, url) {
  await start(page, url, "Headset");
  await page.getByRole("button", { name: "Start the try" }).click();
  const figure = page.getByText(/^Script of a frame/);
  const figures = [];
  await page.getByText(/\d ms, (fits|too much)/).waitFor();
  for (let turn = 0; turn < 5; turn++) {
    await page.waitForTimeout(2000);
    figures.push(/[\d.]+ ms/.exec(await figure.textContent())?.[0] ?? "none");
  }
  await page.getByRole("button", { name: "End the try" }).click();
  return figures.join(", ");
}

/** Nothing but a sheet of one colour behind the person: what is not covered is the cut-out. */
function behindSheet(scene) {
  const { objects } = scene;
  const rings = objects.find(({ id }) => id === "ring-inner");
  rings.kind = "plane";
  rings.rest = {
    position: [0, -30, -2],
    size: [60, 60, 1],
    colour: "#ff00ff",
    emissionColour: "#ff00ff",
    emissionStrength: 1,
  };
  rings.settings = { unlit: true, onCamera: "behind" };
  for (const { id, settings } of objects)
    if (id !== rings.id && settings.onCamera) settings.onCamera = "hidden";
  return { ...scene, answers: [], bindings: [] };
}

/** Intersection over union of cut-out and known outline, and how long finding takes. */
async function personFound(page, url) {
  await start(page, url, "Phone");
  await page.getByRole("combobox", { name: "Camera", exact: true }).selectOption("searched");
  await page.getByRole("button", { name: "Start the try" }).click();
  const words = page.getByText(/^Outline of the person/);
  await page.getByText(/found in \d+ ms/).waitFor();
  const shares = [];
  for (let turn = 0; turn < 5; turn++) {
    await page.waitForTimeout(1500);
    const stage = page.getByRole("img", { name: "The stage" });
    await page.getByRole("button", { name: "Pause the try" }).click();
    await page.waitForTimeout(300);
    const image = (await stage.screenshot()).toString("base64");
    shares.push(await page.evaluate(overlap, image));
    await page.getByRole("button", { name: "Go on" }).click();
  }
  const mean = shares.reduce((sum, one) => sum + one, 0) / shares.length;
  return `intersection over union ${mean.toFixed(3)} (${shares.map((one) => one.toFixed(3)).join(", ")}); ${(await words.textContent()).replace(/^.*: /, "")}`;
}

async function overlap(base64) {
  const image = new Image();
  image.src = `data:image/png;base64,${base64}`;
  await image.decode();
  const { naturalWidth: width, naturalHeight: height } = image;
  const canvas = Object.assign(document.createElement("canvas"), { width, height });
  const context = canvas.getContext("2d");
  context.drawImage(image, 0, 0);
  const { data } = context.getImageData(0, 0, width, height);
  const known = window.madeUpMask(width, height);
  let [both, either] = [0, 0];
  // The phone has round corners, and the bar lies over its lower edge.
  for (let y = 24; y < height * 0.85; y++) {
    for (let x = 12; x < width - 12; x++) {
      const i = y * width + x;
      const [r, g, b] = data.slice(i * 4, i * 4 + 3);
      const isCut = !(g < r * 0.85 && g < b * 0.85 && b > 150);
      if (isCut && known[i]) both++;
      if (isCut || known[i]) either++;
    }
  }
  return both / either;
}
