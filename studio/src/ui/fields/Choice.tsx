/** Look of a list that stands in a sentence of the sheet. */
export const SELECT = "max-w-56 rounded border border-rule bg-sunk text-sm text-paper";
export const SELECT_LOOK = "min-w-0 rounded border border-rule bg-sunk px-1.5 py-0.5 text-sm text-paper";

interface Props<T extends string> {
  label: string;
  value: T;
  /** Options, with their labels where those differ. */
  choices: readonly (T | readonly [value: T, words: string])[];
  className?: string;
  title?: string;
  onChange(value: T): void;
}

/** One of a few things. */
export function Choice<T extends string>({
  label,
  value,
  choices,
  className = "",
  title,
  onChange,
}: Props<T>) {
  return (
    <select
      aria-label={label}
      title={title}
      className={`${SELECT_LOOK} ${className}`}
      value={value}
      onChange={(event) => onChange(event.target.value as T)}
    >
      {choices.map((choice) => {
        const [one, words] = typeof choice === "string" ? [choice, choice] : choice;
        return (
          <option key={one} value={one}>
            {words}
          </option>
        );
      })}
    </select>
  );
}
