import type { PageSettings } from "@bumbrel/core/document/pageSettings";
import { heldFile, type ZipSource, zipped } from "../archive/zipped";
import { type PageExtras, pageContents, pageStart } from "./page";
import { escapeHtml, jsonElement } from "./pageCode";
import type { WayRoom } from "./wayRoom";

/** Line with which another page embeds the folder's page. */
export const embedLine = (address: string, title: string): string =>
  `<iframe src="${escapeHtml(address)}" title="${escapeHtml(title)}" width="960" height="540" style="border:0" allow="autoplay; fullscreen; microphone; camera; midi; xr-spatial-tracking"></iframe>`;

/**
 * A page of a scene as a folder for any static host, in a ZIP file: the page loads its scene, sounds and images as files
 * beside it.
 *
 * @param extras  baked numbers of its strands, without which it computes them, and sounds as other files
 */
export async function webFolder(
  room: WayRoom,
  settings: PageSettings & { address: string },
  extras: Pick<PageExtras, "curves" | "recoded">,
): Promise<AsyncIterable<Uint8Array>> {
  const { scene, stores, parts } = room;
  const contents = await pageContents(scene, stores, parts, { settings, ...extras });
  const poster = await stores.projects.thumbnail(room.projectId);
  if (settings.address && !URL.canParse(settings.address))
    throw new RangeError(`the address must be whole, as https://your.host/path/, not "${settings.address}"`);
  const address = settings.address && new URL("index.html", withSlash(settings.address)).href;
  const picture =
    poster && address
      ? `<meta property="og:image" content="${escapeHtml(new URL("poster.jpg", address).href)}">\n<meta property="og:url" content="${escapeHtml(address)}">\n`
      : "";
  const start = pageStart(contents, {
    policy: `default-src 'none'; script-src 'self' ${contents.scriptSources}; worker-src 'self' ${contents.workerSources}; style-src 'self' 'unsafe-inline'; font-src 'self' data:; connect-src 'self' blob: data:; img-src 'self' blob: data:`,
    head: `${picture}<link rel="stylesheet" href="page.css">`,
    ...(poster && { poster: "poster.jpg" }),
  });
  const blocks = contents.blocks.map((block) =>
    "json" in block
      ? jsonElement(block.id, block.json)
      : `<script type="text/plain" id="${block.id}" data-src="${encodeURI(block.file)}"></script>`,
  );
  const sources: ZipSource[] = [
    { path: "README.txt", text: readme(scene.name, address || "https://your.host/path/index.html") },
    {
      path: "index.html",
      text: `${start}${blocks.join("\n")}\n<script src="code/page.js"></script>\n</body>\n</html>\n`,
    },
    { path: "LICENCES.txt", text: contents.licences },
    { path: "page.css", text: contents.style },
    { path: "code/page.js", text: contents.script },
  ];
  if (poster) sources.push(heldFile("poster.jpg", poster));
  for (const block of contents.blocks) {
    if ("json" in block) continue;
    if ("code" in block) sources.push({ path: block.file, text: block.code });
    else sources.push({ path: block.file, size: block.size, bytes: block.bytes });
  }
  return zipped(sources, new Date());
}

const withSlash = (address: string) => (/\/$|\.html?$/.test(address) ? address : `${address}/`);

const readme = (name: string, address: string): string => `${name}

Put this folder on any host of static files; nothing runs on the server. Opened from disk, browsers do not let it load its
files: use the one-file page there.

Embed it in another page:

${embedLine(address, name)}

Steer it from there, with \`frame\` as the iframe:

frame.contentWindow.postMessage({ bumbrel: "play" }, "*");
frame.contentWindow.postMessage({ bumbrel: "pause" }, "*");
frame.contentWindow.postMessage({ bumbrel: "seek", timeS: 12.5 }, "*");
frame.contentWindow.postMessage({ bumbrel: "read", id: 1 }, "*");
addEventListener("message", ({ data }) => {
  if (data?.bumbrel === "numbers") console.log(data.id, data.state, data.timeS, data.durationS, data.strands);
});
`;
