import type { StageObject } from "@bumbrel/core/scene/document";
import { OBJECT_KINDS, propertiesOf } from "@bumbrel/core/scene/objectKinds";
import { Trash2 } from "lucide-react";
import { useScene, useWorkbench } from "../project/context";
import { IconButton } from "../ui/Button";
import { LiveBar } from "../ui/LiveBar";
import { NameField } from "../ui/NameField";
import { StrandMark } from "../ui/StrandMark";
import { strandColour } from "../ui/strandLook";
import { removeObject, renameObject } from "./edits";
import { PropertyRow } from "./PropertyRow";

/** What the chosen object does, as sentences; the strands lie along the top. */
export function Sheet({ object }: { object: StageObject | undefined }) {
  return (
    <aside aria-label="Sheet" className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)] border-l border-rule">
      <StrandStrip />
      {object ? (
        <ObjectSheet key={object.id} object={object} />
      ) : (
        <p className="grid place-content-center p-10 text-center text-mist">
          Choose something on the stage, or in the strip below it, to see what it does and what moves it.
        </p>
      )}
    </aside>
  );
}

function StrandStrip() {
  const workbench = useWorkbench();
  const { strands } = useScene();
  if (strands.length === 0) {
    return (
      <p className="border-b border-rule px-4 py-3 text-sm text-mist">
        No strands yet: make one in the Strands view.
      </p>
    );
  }
  return (
    <ul aria-label="Strands" className="flex flex-wrap gap-x-3 gap-y-1.5 border-b border-rule px-4 py-2.5">
      {strands.map((strand) => (
        <li key={strand.id} className="grid gap-1">
          <span className="flex items-center gap-1.5 text-sm">
            <StrandMark strand={strand} size={12} />
            {strand.name}
          </span>
          <LiveBar
            colour={strandColour(strand.hue)}
            value={(timeS) => workbench.shapedNow(strand.id, timeS)}
          />
        </li>
      ))}
    </ul>
  );
}

function ObjectSheet({ object }: { object: StageObject }) {
  const workbench = useWorkbench();
  const kind = OBJECT_KINDS[object.kind];
  return (
    <div className="min-h-0 overflow-y-auto px-4 pt-3 pb-6">
      <div className="flex items-center gap-2">
        <NameField
          label="Object name"
          className="min-w-0 grow text-xl"
          value={object.name}
          onRename={(name) => renameObject(workbench, object, name)}
        />
        <span className="text-sm text-mist">{kind.label}</span>
        {!kind.singleton && (
          <IconButton label={`Remove ${object.name}`} onClick={() => removeObject(workbench, object)}>
            <Trash2 size={16} />
          </IconButton>
        )}
      </div>
      <p className="mb-2 text-sm text-mist">{kind.help}</p>
      {Object.keys(propertiesOf(object.kind)).map((key) => (
        <PropertyRow key={key} object={object} propertyKey={key} />
      ))}
    </div>
  );
}
