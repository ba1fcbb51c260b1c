import {
  checkConnections,
  checkObjects,
  checkStrands,
  type SceneCheck,
} from "@bumbrel/core/check/sceneChecks";
import { CircleAlert, CircleCheck } from "lucide-react";
import { useMemo } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { useResults, useScene, useWorkbench } from "../project/context";
import { useUi } from "../project/uiState";
import { applyShaping } from "../strands/edits";

/** Everything noticed about the scene, where it is and how to mend it. */
export function Checks() {
  const workbench = useWorkbench();
  const scene = useScene();
  // What strands could do better comes as they are analysed.
  useResults();
  const { traces } = workbench.analysis;
  const objects = useMemo(() => checkObjects(scene), [scene]);
  const checks = [
    ...checkConnections(scene),
    ...checkStrands(scene, (id) => traces.get(id)?.advice),
    ...objects,
  ];
  const { bindings, strands } = scene;
  return (
    <section aria-label="Checks">
      <h2 className="pb-2 text-2xl font-semibold">Checks</h2>
      {checks.length === 0 ? (
        <p className="flex items-center gap-2 text-mist">
          <CircleCheck size={18} aria-hidden className="text-brass" />
          Everything connects: {bindings.length} {bindings.length === 1 ? "binding" : "bindings"} from{" "}
          {strands.length} {strands.length === 1 ? "strand" : "strands"}.
        </p>
      ) : (
        <ul className="grid">
          {checks.map((check) => (
            <Row key={`${check.code} ${check.where}`} check={check} />
          ))}
        </ul>
      )}
    </section>
  );
}

function Row({ check }: { check: SceneCheck }) {
  const workbench = useWorkbench();
  const { look } = useUi();
  const navigate = useNavigate();
  const { what, remedy, about, change } = check;
  const strand = useScene((scene) => scene.strands.find(({ id }) => id === about?.id));
  const show = () => {
    if (!about) return;
    const { kind, id } = about;
    const chosen =
      kind === "strand" ? { strandId: id } : kind === "object" ? { objectIds: [id] } : { openSoundId: id };
    look(workbench.projectId, chosen);
    const view = kind === "strand" ? "strands" : kind === "object" ? "stage" : "sounds";
    navigate(`/projects/${workbench.projectId}/${view}`);
  };
  return (
    <li className="flex items-start gap-3 border-t border-rule py-2 last:border-b">
      <CircleAlert size={18} aria-hidden className="mt-0.5 shrink-0 text-alarm" />
      <span className="grow">
        {what}. <span className="text-mist">{remedy}.</span>
      </span>
      {change && strand && (
        <Button
          className="text-sm"
          aria-label={`Do it: ${what}`}
          onClick={() => applyShaping(workbench, strand, `take advice on ${strand.name}`, change)}
        >
          Do it
        </Button>
      )}
      {about && (
        <Button className="text-sm" aria-label={`Show it: ${what}`} onClick={show}>
          Show it
        </Button>
      )}
    </li>
  );
}
