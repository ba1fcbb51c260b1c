import { Switch } from "radix-ui";

/** Switches a step on or past it. */
export function SwitchDot({
  label,
  on,
  onChange,
}: {
  label: string;
  on: boolean;
  onChange(on: boolean): void;
}) {
  return (
    <Switch.Root
      aria-label={label}
      checked={on}
      onCheckedChange={onChange}
      className="ml-auto h-4 w-7 shrink-0 rounded-full border border-rule bg-sunk data-[state=checked]:bg-brass"
    >
      <Switch.Thumb className="block size-3 translate-x-0.5 rounded-full bg-mist transition data-[state=checked]:translate-x-3 data-[state=checked]:bg-on-brass" />
    </Switch.Root>
  );
}
