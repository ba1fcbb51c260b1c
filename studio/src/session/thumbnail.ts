import { api } from "../api/client";

/** Keeps an image of the stage for the shelf; a shelf without one is no loss. */
export async function keepThumbnail(projectId: string, image: Blob): Promise<void> {
  await api.setThumbnail(projectId, image).catch(() => undefined);
}
