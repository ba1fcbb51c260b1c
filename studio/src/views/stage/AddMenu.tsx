import type { ObjectKind } from "@bumbrel/core/document/scene";
import { SHELVES, type Shelf } from "@bumbrel/core/kinds/declaration";
import { OBJECT_KIND_NAMES, OBJECT_KINDS } from "@bumbrel/core/kinds/table";
import { Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Button } from "../../ui/Button";
import { KIND_ICONS } from "./kindIcons";

/** Everything that can be put on the stage, by what it is for. */
export function AddMenu({ onAdd }: { onAdd(kind: ObjectKind): void }) {
  const on = (shelf: Shelf) =>
    OBJECT_KIND_NAMES.filter((kind) => (OBJECT_KINDS[kind] as { shelf?: Shelf }).shelf === shelf);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className="self-center">
          <Plus size={15} aria-hidden /> Put on stage
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          side="top"
          align="end"
          sideOffset={6}
          className="floating z-30 w-[620px] columns-3 gap-2 p-2"
        >
          {(Object.keys(SHELVES) as Shelf[]).map((shelf) => (
            <DropdownMenu.Group key={shelf} className="mb-2 break-inside-avoid">
              <DropdownMenu.Label className="px-2 py-1 text-xs text-mist">
                {SHELVES[shelf]}
              </DropdownMenu.Label>
              {on(shelf).map((kind) => {
                const Icon = KIND_ICONS[kind];
                const { label, help } = OBJECT_KINDS[kind];
                return (
                  <DropdownMenu.Item
                    key={kind}
                    title={help}
                    onSelect={() => onAdd(kind)}
                    className="flex cursor-pointer items-center gap-2 rounded px-2 py-1 outline-none data-[highlighted]:bg-raised"
                  >
                    <Icon size={16} aria-hidden className="shrink-0 text-brass" />
                    {label}
                  </DropdownMenu.Item>
                );
              })}
            </DropdownMenu.Group>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
