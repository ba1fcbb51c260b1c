import { playerHandle } from "@bumbrel/player/scenePlayer";
import { Stage } from "@bumbrel/player/stage/stage";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import { useScene, useWorkbench } from "../project/context";

/** Size of the picture a project shows on the shelf. */
const PICTURE = { width: 480, height: 288 };
const PICTURE_AFTER_MS = 2500;

interface Props {
  /** Whether to draw where sounds are. */
  showPlaces?: boolean;
  chosenId?: string;
  onChoose?(objectId: string | undefined): void;
}

/** The stage, live, as large as its place. */
export function StageCanvas({ chosenId, onChoose, showPlaces = false }: Props) {
  const workbench = useWorkbench();
  const { sounds } = useScene();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [stage, setStage] = useState<Stage>();
  const [failure, setFailure] = useState<string>();

  useEffect(() => {
    const element = canvas.current!;
    let made: Stage;
    try {
      made = new Stage(element);
    } catch {
      setFailure(
        "This browser offers no WebGL, which the stage needs. Turn on hardware acceleration or use another browser.",
      );
      return;
    }
    const detach = workbench.player.attach(made);
    const fit = () => {
      const { clientWidth, clientHeight } = element.parentElement!;
      if (clientWidth > 0 && clientHeight > 0)
        made.resize(clientWidth, clientHeight, Math.min(2, devicePixelRatio));
    };
    const observer = new ResizeObserver(fit);
    observer.observe(element.parentElement!);
    fit();
    window.bumbrel = playerHandle(workbench.player, made);
    const picture = setTimeout(
      () => void workbench.keepPicture(made.picture(PICTURE.width, PICTURE.height)),
      PICTURE_AFTER_MS,
    );
    setStage(made);
    return () => {
      clearTimeout(picture);
      observer.disconnect();
      detach();
      made.dispose();
      window.bumbrel = playerHandle(workbench.player);
      setStage(undefined);
    };
  }, [workbench]);
  useEffect(() => stage?.choose(chosenId), [stage, chosenId]);
  const places = showPlaces ? sounds.flatMap(({ place }) => place ?? []) : [];
  useEffect(() => stage?.showPlaces(places));

  const pick = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!stage || !onChoose) return;
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect();
    onChoose(stage.objectAt((event.clientX - left) / width, (event.clientY - top) / height));
  };
  return (
    <div className="relative h-full w-full overflow-hidden bg-sunk">
      {places.length > 0 && (
        <p className="absolute bottom-2 left-3 z-10 text-xs text-mist">
          Rings: a sound is at full level inside the brass one, and falls no further outside the grey one.
        </p>
      )}
      {failure ? (
        <p className="p-6 text-mist" role="alert">
          {failure}
        </p>
      ) : (
        <canvas
          ref={canvas}
          className={`absolute inset-0 block h-full w-full ${onChoose ? "cursor-pointer" : ""}`}
          aria-label="The stage"
          role="img"
          onPointerDown={pick}
        />
      )}
    </div>
  );
}
