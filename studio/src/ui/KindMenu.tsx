import { type LucideIcon, Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Button } from "./Button";

/** Something of which one more can be had. */
export interface KindItem {
  label: string;
  help: string;
  icon: LucideIcon;
  onSelect(): void;
}

/** A button that offers kinds of things to add, each with a line of help. */
export function KindMenu({
  words,
  side = "bottom",
  items,
}: {
  words: string;
  side?: "top" | "bottom";
  items: readonly KindItem[];
}) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className="self-center whitespace-nowrap">
          <Plus size={15} aria-hidden /> {words}
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          side={side}
          align="end"
          sideOffset={6}
          className="z-30 max-h-(--radix-dropdown-menu-content-available-height) w-80 floating overflow-y-auto p-1"
        >
          {items.map(({ label, help, icon: Icon, onSelect }) => (
            <DropdownMenu.Item
              key={label}
              onSelect={onSelect}
              className="flex cursor-pointer items-center gap-3 rounded px-3 py-1.5 outline-none data-[highlighted]:bg-raised"
            >
              <Icon size={18} aria-hidden className="shrink-0 text-brass" />
              <span>
                {label}
                <span className="block text-xs text-mist">{help}</span>
              </span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
