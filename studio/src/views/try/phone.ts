import { FINDER_FILES } from "@bumbrel/core/analyse/needed";
import type { CameraPicture } from "@bumbrel/player/camera/madeUpCamera";
import { MadeUpCamera } from "@bumbrel/player/camera/madeUpCamera";
import { type FinderParts, PersonFinder } from "@bumbrel/player/camera/personFinder";
import { RealCamera } from "@bumbrel/player/camera/realCamera";
import { SearchedCamera } from "@bumbrel/player/camera/searchedCamera";

/** Sizes that phones and tablets have, in CSS pixels. */
export const PHONE_SIZES = {
  small: { label: "small, 360 × 640", width: 360, height: 640 },
  common: { label: "common, 390 × 844", width: 390, height: 844 },
  large: { label: "large, 430 × 932", width: 430, height: 932 },
  tablet: { label: "tablet, 768 × 1024", width: 768, height: 1024 },
} as const;
export type PhoneSize = keyof typeof PHONE_SIZES;

/** Camera picture of a phone. */
export const CAMERAS = {
  madeUp: "made-up picture, known outline",
  searched: "made-up picture, person found",
  front: "this device’s front camera",
  back: "this device’s back camera",
  none: "no camera",
} as const;
export type CameraChoice = keyof typeof CAMERAS;

const finderParts: FinderParts = {
  page: { url: "/person/finder.html" },
  files: async () =>
    Object.fromEntries(
      await Promise.all(
        FINDER_FILES.map(async (name) => {
          const response = await fetch(`/person/${name}`);
          if (!response.ok) throw new Error(`${name} did not arrive`);
          return [name, await response.arrayBuffer()] as const;
        }),
      ),
    ),
};

/**
 * Opens what a phone sees.
 *
 * @param onProblem  told in words when nobody can be cut out of it
 * @throws Error in words, when a camera is refused or there is none
 */
export async function openCamera(
  choice: CameraChoice,
  isUpright: boolean,
  onProblem: (problem: string) => void,
): Promise<CameraPicture | undefined> {
  const finder = () =>
    new PersonFinder(finderParts, (problem) => problem !== undefined && onProblem(problem));
  const made = () => (isUpright ? new MadeUpCamera(540, 720) : new MadeUpCamera(720, 540));
  switch (choice) {
    case "none":
      return undefined;
    case "madeUp":
      return made();
    case "searched":
      return new SearchedCamera(made(), finder());
    default: {
      const found = finder();
      try {
        return await RealCamera.open(choice, found);
      } catch (error) {
        found.dispose();
        throw error;
      }
    }
  }
}

/** Mask of the made-up person in an image of a size: their known outline, cut and mirrored as the image shows it. */
export function knownOutline(camera: CameraPicture, width: number, height: number): boolean[] {
  const mask = camera instanceof SearchedCamera ? camera.knownMask : camera.mask;
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [width, height];
  const context = canvas.getContext("2d");
  if (!mask || !context) return [];
  const [screen, own] = [width / height, camera.width / camera.height];
  const [w, h] = [camera.width * Math.min(1, screen / own), camera.height * Math.min(1, own / screen)];
  context.translate(width, 0);
  context.scale(-1, 1);
  context.drawImage(mask, (camera.width - w) / 2, (camera.height - h) / 2, w, h, 0, 0, width, height);
  const { data } = context.getImageData(0, 0, width, height);
  return Array.from({ length: width * height }, (_none, i) => data[i * 4] > 127);
}

/** How the phone is held and what it sees. */
export interface PhoneState {
  size: PhoneSize;
  isUpright: boolean;
  camera: CameraChoice;
}
