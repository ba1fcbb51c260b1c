import type { Binding, RestValue, StageObject } from "@bumbrel/core/document/scene";
import { withSingletons } from "@bumbrel/core/kinds/create";
import { hasCopies, propertiesOf } from "@bumbrel/core/kinds/table";
import { linearToHex } from "@bumbrel/core/setting/colour";
import type { Property } from "@bumbrel/core/setting/property";
import { useDroppable } from "@dnd-kit/core";
import { DropdownMenu } from "radix-ui";
import { memo } from "react";
import { useEditing, usePlayer, useScene } from "../../session/context";
import { bind, setRest } from "../../session/edits/stage";
import { useStrands } from "../../session/strandHooks";
import { LiveText } from "../../ui/live/LiveText";
import { StrandMark } from "../../ui/StrandMark";
import { BindingLine, MENU_ITEM } from "./BindingLine";
import { RestField } from "./fields";

/** One property as a sentence: where it rests, where it goes, and with what. A strand can be dropped on it. */
export const PropertyRow = memo(function PropertyRow({
  objects,
  propertyKey,
}: {
  /** The first is shown; all of them are changed. What they rest at is read from the document. */
  objects: readonly StageObject[];
  propertyKey: string;
}) {
  const editing = useEditing();
  const [object] = objects;
  const property = propertiesOf(object)[propertyKey];
  const stored = useScene(
    (scene) => withSingletons(scene.objects).find(({ id }) => id === object.id)?.rest[propertyKey],
    (before, now) => before === now,
  );
  const rest = (stored ?? property.default) as RestValue;
  const own = useScene(({ bindings: all }) =>
    all.filter((one) => one.property === propertyKey && objects.some(({ id }) => id === one.objectId)),
  );
  const of = (id: string) => own.filter((one) => one.objectId === id);
  const bindings = of(object.id);
  const gesture = `rest ${objects.map(({ id }) => id)} ${propertyKey}`;
  const { setNodeRef, isOver } = useDroppable({ id: propertyKey });
  // With several objects chosen, a binding stands for those of the others to the same strand.
  const alike = (binding: Binding) => [
    binding,
    ...objects
      .slice(1)
      .flatMap(({ id }) => of(id).find(({ strandId }) => strandId === binding.strandId) ?? []),
  ];
  return (
    <section
      ref={setNodeRef}
      aria-label={property.label}
      className={`border-t border-rule py-1.5 ${isOver ? "bg-raised outline-2 -outline-offset-1 outline-brass" : ""}`}
    >
      <div className="flex flex-wrap items-baseline gap-x-2 gap-y-1">
        <span className="font-semibold" title={property.help}>
          {property.label}
        </span>
        {hasCopies(object) && property.perCopy && (
          <span className="text-xs text-mist" title="A fan gives each copy a number of its own.">
            each
          </span>
        )}
        <span className="text-sm text-mist">rests at</span>
        <RestField
          property={property}
          rest={rest}
          onChange={(value) => setRest(editing, objects, propertyKey, value, gesture)}
          onDone={() => editing.endGesture()}
        />
        <span className="ml-auto flex items-baseline gap-2">
          {bindings.length > 0 && (
            <NowValue objectId={object.id} propertyKey={propertyKey} property={property} />
          )}
          <BindMenu objects={objects} propertyKey={propertyKey} label={property.label} />
        </span>
      </div>
      {bindings.map((binding, i) => (
        <BindingLine
          key={binding.id}
          bindings={alike(binding)}
          object={object}
          property={property}
          place={{ first: i === 0, last: i === bindings.length - 1 }}
        />
      ))}
    </section>
  );
});

/** Value of the property at this instant. */
function NowValue({
  objectId,
  propertyKey,
  property,
}: {
  objectId: string;
  propertyKey: string;
  property: Property;
}) {
  const player = usePlayer();
  const axis = property.type === "vector" && !property.uniform ? 1 : 0;
  return (
    <span className="text-sm text-mist">
      now{" "}
      <LiveText
        className="inline-block min-w-14 text-right text-brass"
        text={() =>
          property.type === "colour"
            ? linearToHex([0, 1, 2].map((i) => player.valueOf(objectId, propertyKey, i)))
            : player.valueOf(objectId, propertyKey, axis).toFixed(2).replace("-", "−")
        }
      />
    </span>
  );
}

const BindMenu = memo(function BindMenu({
  objects,
  propertyKey,
  label,
}: {
  objects: readonly StageObject[];
  propertyKey: string;
  label: string;
}) {
  const editing = useEditing();
  const strands = useStrands();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        disabled={strands.length === 0}
        aria-label={`Bind ${label}`}
        title={strands.length === 0 ? "Make a strand first" : `Bind a strand to ${label}`}
        className="rounded-full border border-rule px-2 text-sm text-mist hover:border-brass hover:text-brass disabled:opacity-40"
      >
        bind
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className="floating z-30 min-w-44 p-1">
          <DropdownMenu.Label className="px-3 py-1 text-xs text-mist">{label} goes with</DropdownMenu.Label>
          {strands.map((strand) => (
            <DropdownMenu.Item
              key={strand.id}
              onSelect={() => bind(editing, objects, propertyKey, strand.id)}
              className={MENU_ITEM}
            >
              <StrandMark strand={strand} />
              {strand.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
});
