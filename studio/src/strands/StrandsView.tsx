import type { Scene, Sound } from "@bumbrel/core/scene/document";
import { Navigate } from "react-router";
import { useScene, useWorkbench } from "../project/context";
import { type Looking, useLooking } from "../project/ui";
import { Bench } from "./Bench";
import { Spine } from "./Spine";

/** The spine above, the bench for the chosen strand below; a first strand must not move the axis it is dragged on. */
export function StrandsView() {
  const scene = useScene();
  const { projectId } = useWorkbench();
  const looking = useLooking(projectId);
  if (scene.sounds.length === 0) return <Navigate to="../sounds" replace />;
  const strand = scene.strands.find(({ id }) => id === looking.strandId) ?? scene.strands[0];
  return (
    <main className="grid min-h-0 grid-rows-[minmax(0,1fr)_370px]">
      <Spine sound={shownSound(scene, looking)} chosen={strand} />
      <Bench chosen={strand} />
    </main>
  );
}

function shownSound(scene: Scene, looking: Looking): Sound {
  return (
    scene.sounds.find(({ id }) => id === looking.soundId) ??
    scene.sounds.find(({ heard }) => heard) ??
    scene.sounds[0]
  );
}
