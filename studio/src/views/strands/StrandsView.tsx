import { Navigate } from "react-router";
import { useProjectId, useScene } from "../../session/context";
import { useStrands } from "../../session/strandHooks";
import { useLooking } from "../../session/viewState";
import { Bench } from "./Bench";
import { Spine } from "./spine/Spine";
import { shownSound } from "./spine/shownSound";

/** The spine above, the bench for the chosen strand below; a first strand must not move the axis it is dragged on. */
export function StrandsView() {
  const projectId = useProjectId();
  const looking = useLooking(projectId);
  const sound = useScene((scene) => shownSound(scene, looking));
  const strands = useStrands();
  if (!sound) return <Navigate to="../sounds" replace />;
  const strand = strands.find(({ id }) => id === looking.strandId) ?? strands[0];
  return (
    <main className="grid min-h-0 grid-rows-[minmax(0,1fr)_456px]">
      <Spine sound={sound} chosen={strand} />
      <Bench chosen={strand} />
    </main>
  );
}
