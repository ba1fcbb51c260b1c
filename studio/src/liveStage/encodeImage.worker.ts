/** Encodes an image as JPEG, apart from the page: reading it back from the graphics card can take long. */
addEventListener("message", async ({ data }: MessageEvent<ImageBitmap>) => {
  const canvas = new OffscreenCanvas(data.width, data.height);
  canvas.getContext("2d")?.drawImage(data, 0, 0);
  postMessage(await canvas.convertToBlob({ type: "image/jpeg", quality: 0.85 }));
});
