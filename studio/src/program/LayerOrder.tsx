import type { StageObject } from "@bumbrel/core/document/scene";
import { isLayer } from "@bumbrel/core/kinds/programKinds";
import { moveLayer } from "@bumbrel/core/kinds/programs";
import { ArrowDown, ArrowUp } from "lucide-react";
import { sameButRest, useEditing, useScene } from "../session/context";
import { IconButton } from "../ui/Button";

/** The place of a picture pass, or of a drawing over the picture, among the others. */
export function LayerOrder({ object }: { object: StageObject }) {
  const editing = useEditing();
  const layers = useScene((scene) => scene.objects, sameButRest).filter(isLayer);
  const place = layers.findIndex(({ id }) => id === object.id);
  if (layers.length < 2) return null;
  const move = (by: number) =>
    editing.edit(`move ${object.name}`, (draft) => moveLayer(draft, object.id, by));
  const before = layers[place - 1];
  return (
    <div className="flex items-center gap-2 border-t border-rule py-1.5">
      <span className="text-mist">Order</span>
      <span className="min-w-0 grow truncate">
        {before ? `after ${before.name}` : "first over the picture"}
      </span>
      <IconButton small label="Earlier" disabled={place === 0} onClick={() => move(-1)}>
        <ArrowUp size={15} />
      </IconButton>
      <IconButton small label="Later" disabled={place === layers.length - 1} onClick={() => move(1)}>
        <ArrowDown size={15} />
      </IconButton>
    </div>
  );
}
