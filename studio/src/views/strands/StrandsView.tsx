import { Navigate } from "react-router";
import { useResults, useScene, useWorkbench } from "../project/context";
import { useLooking } from "../project/uiState";
import { Bench } from "./Bench";
import { Spine } from "./Spine";
import { shownSound } from "./shownSound";

/** The spine above, the bench for the chosen strand below; a first strand must not move the axis it is dragged on. */
export function StrandsView() {
  const scene = useScene();
  useResults();
  const { projectId } = useWorkbench();
  const looking = useLooking(projectId);
  const sound = shownSound(scene, looking);
  if (!sound) return <Navigate to="../sounds" replace />;
  const strand = scene.strands.find(({ id }) => id === looking.strandId) ?? scene.strands[0];
  return (
    <main className="grid min-h-0 grid-rows-[minmax(0,1fr)_456px]">
      <Spine sound={sound} chosen={strand} />
      <Bench chosen={strand} />
    </main>
  );
}
