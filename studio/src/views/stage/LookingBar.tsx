import type { Stage } from "@bumbrel/player/stage/stage";
import { Grid3x3, Ratio, Scan } from "lucide-react";
import { boundsOfObjects } from "../../liveStage/bounds";
import type { Looking } from "../../liveStage/looking";
import { useEditing } from "../../session/context";
import { Button, IconButton } from "../../ui/Button";

/** Shapes that the image can be looked at in: those that films, squares and phones have. */
export const IMAGE_SHAPES = { fill: 0, "16:9": 16 / 9, "1:1": 1, "9:16": 9 / 16 } as const;
export type ImageShape = keyof typeof IMAGE_SHAPES;

/** Looking at the stage: framing what is chosen, a grid, the shape of the image, and the way back to the camera. */
export function LookingBar({
  stage,
  looking,
  isLooking,
  chosenIds,
  hasGrid,
  onGrid,
  shape,
  onShape,
}: {
  stage: Stage | undefined;
  looking: Looking | undefined;
  isLooking: boolean;
  chosenIds: readonly string[];
  hasGrid: boolean;
  onGrid(hasGrid: boolean): void;
  shape: ImageShape;
  onShape(shape: ImageShape): void;
}) {
  const editing = useEditing();
  const makeCamera = () => {
    if (!looking) return;
    const { position, target } = looking.viewpoint;
    editing.edit("move the camera", (scene) => {
      const camera = scene.objects.find(({ kind }) => kind === "camera");
      if (camera) Object.assign(camera.rest, { position, target, orbit: 0 });
    });
    looking.stop();
  };
  return (
    <div className="absolute top-2 right-2 z-10 flex items-center gap-1">
      {isLooking && (
        <>
          <Button className="bg-ground/85 text-sm" onClick={makeCamera}>
            Make this the camera
          </Button>
          <Button className="bg-ground/85 text-sm" onClick={() => looking?.stop()}>
            Back to the camera
          </Button>
        </>
      )}
      <div
        role="toolbar"
        aria-label="Looking"
        className="flex items-center gap-0.5 rounded-full border border-rule bg-ground/85 px-1"
      >
        <IconButton
          label="Frame the selection"
          className="text-mist"
          onClick={() => stage && looking?.frame(boundsOfObjects(stage, chosenIds))}
        >
          <Scan size={16} />
        </IconButton>
        <IconButton
          label="Grid"
          aria-pressed={hasGrid}
          className={hasGrid ? "text-brass" : "text-mist"}
          onClick={() => onGrid(!hasGrid)}
        >
          <Grid3x3 size={16} />
        </IconButton>
        <label className="inline-flex items-center gap-1 pr-1 text-xs text-mist" title="Shape of the image">
          <Ratio size={16} aria-hidden />
          <select
            aria-label="Shape of the image"
            className="bg-transparent text-paper"
            value={shape}
            onChange={(event) => onShape(event.target.value as ImageShape)}
          >
            {Object.keys(IMAGE_SHAPES).map((one) => (
              <option key={one} className="bg-sunk">
                {one}
              </option>
            ))}
          </select>
        </label>
      </div>
    </div>
  );
}
