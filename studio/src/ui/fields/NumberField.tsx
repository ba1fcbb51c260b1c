import { useEffect, useState } from "react";

interface Props {
  label: string;
  title?: string;
  value: number;
  unit?: string;
  min: number;
  max: number;
  step: number;
  disabled?: boolean;
  /** Width of the figures, in characters. */
  chars?: number;
  /** Shown instead of the figures, for a value that has a word. */
  shown?: string;
  /** Reads other ways of writing the number, such as a note for a frequency. */
  read?(text: string): number | undefined;
  onChange(value: number): void;
  onDone?(): void;
}

/** How long it is said that a number was limited. */
const SHOWN_MS = 6000;

/** Message for a typed number outside the limits. */
export const limitText = (typed: number, value: number, unit = ""): string => {
  const end = typed > value ? "most" : "least";
  return `${value}${unit && ` ${unit}`} is the ${end} it can be.`;
};

/** Digits that a step calls for: 0.01 → 2. */
const digitsOf = (step: number) => Math.max(0, -Math.floor(Math.log10(step) + 1e-9));

/** A number that can be typed exactly; arrow keys step, with Shift ten at a time. */
export function NumberField({
  label,
  title,
  value,
  unit,
  min,
  max,
  step,
  disabled,
  chars = 6,
  shown: word,
  read,
  onChange,
  onDone,
}: Props) {
  const shown = word ?? value.toFixed(digitsOf(step));
  const [draft, setDraft] = useState<string>();
  const [limited, setLimited] = useState<string>();

  useEffect(() => {
    if (limited === undefined) return;
    const timer = setTimeout(() => setLimited(undefined), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [limited]);

  const commit = (text: string) => {
    const typed = read?.(text) ?? Number.parseFloat(text.replace(",", ".").replace("−", "-"));
    setDraft(undefined);
    if (Number.isFinite(typed)) {
      const value = Math.min(max, Math.max(min, typed));
      onChange(value);
      setLimited(value === typed ? undefined : limitText(typed, value, unit));
    } else if (text.trim() !== "") setLimited(`“${text}” is no number: it stays at ${shown}.`);
    onDone?.();
  };
  return (
    <span className="relative inline-flex items-baseline gap-1">
      <input
        aria-label={unit ? `${label} in ${unit}` : label}
        title={title}
        className="figures rounded border border-transparent bg-sunk px-1 py-0.5 text-right text-sm text-paper hover:border-rule disabled:opacity-40"
        style={{ width: `${chars + 1.2}ch` }}
        inputMode="decimal"
        disabled={disabled}
        value={draft ?? shown}
        onFocus={(event) => event.target.select()}
        onChange={(event) => {
          setDraft(event.target.value);
          setLimited(undefined);
        }}
        onBlur={(event) => draft !== undefined && commit(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter") commit(event.currentTarget.value);
          else if (event.key === "Escape") setDraft(undefined);
          else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
            event.preventDefault();
            const by = step * (event.shiftKey ? 10 : 1) * (event.key === "ArrowUp" ? 1 : -1);
            onChange(Math.min(max, Math.max(min, Number((value + by).toFixed(6)))));
          }
        }}
      />
      {unit && <span className="text-xs text-mist">{unit}</span>}
      {limited && (
        <span
          role="status"
          className="floating absolute top-full right-0 z-20 mt-1 px-2 py-0.5 text-xs whitespace-nowrap text-paper"
        >
          {limited}
        </span>
      )}
    </span>
  );
}
