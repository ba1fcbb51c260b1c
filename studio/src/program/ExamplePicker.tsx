import { PROGRAM_EXAMPLES, type ProgramExample } from "@bumbrel/core/program/examples";
import { PROGRAM_KINDS, type ProgramKind } from "@bumbrel/core/program/kinds";
import { Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { Button } from "../ui/Button";
import { ExamplePreview } from "./ExamplePreview";

/** Begins a program from one of the worked ones of its kind; the one that is pointed at moves beside the list. */
export function ExamplePicker({
  kind,
  onPick,
}: {
  kind: ProgramKind;
  onPick(example: ProgramExample): void;
}) {
  const examples = Object.values<ProgramExample>(PROGRAM_EXAMPLES).filter((one) => one.kind === kind);
  const [seen, setSeen] = useState<ProgramExample>(examples[0]);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className="self-center whitespace-nowrap">
          <Plus size={15} aria-hidden /> Write a program
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          collisionPadding={12}
          className="z-30 grid max-h-(--radix-dropdown-menu-content-available-height) w-[560px] floating grid-cols-[minmax(0,1fr)_248px] gap-2 overflow-hidden p-1"
        >
          <div className="min-h-0 overflow-y-auto">
            <p className="px-3 pt-1 pb-1.5 text-xs text-mist">{PROGRAM_KINDS[kind].help} Begin with:</p>
            {examples.map((example) => (
              <DropdownMenu.Item
                key={example.label}
                onSelect={() => onPick(example)}
                onFocus={() => setSeen(example)}
                className="cursor-pointer rounded px-3 py-1.5 outline-none data-[highlighted]:bg-raised"
              >
                {example.label}
                <span className="block text-xs text-mist">{example.help}</span>
              </DropdownMenu.Item>
            ))}
          </div>
          <div className="p-2">
            <ExamplePreview example={seen} />
            <p className="pt-2 text-xs text-mist">On made-up sound</p>
          </div>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
