import type { ReactNode } from "react";

interface Props {
  label: string;
  on: boolean;
  children: ReactNode;
  title?: string;
  className?: string;
  onChange(on: boolean): void;
}

/** A word that is pressed or not. */
export function Toggle({ label, on, children, title, className = "", onChange }: Props) {
  return (
    <button
      type="button"
      aria-label={label}
      aria-pressed={on}
      title={title ?? label}
      onClick={() => onChange(!on)}
      className={`inline-flex items-center gap-1 rounded-full border px-1.5 text-sm leading-6 whitespace-nowrap ${
        on ? "border-brass text-brass" : "border-rule text-mist hover:text-paper"
      } ${className}`}
    >
      {children}
    </button>
  );
}
