import { useEffect, useState } from "react";

/** Longest name a document takes. */
const MAX_LENGTH = 120;

/** A name that can be typed over where it stands; an empty one is put back. */
export function NameField({
  label,
  value,
  className = "",
  onRename,
}: {
  label: string;
  value: string;
  className?: string;
  onRename(name: string): void;
}) {
  const [draft, setDraft] = useState(value);
  useEffect(() => setDraft(value), [value]);
  const commit = () => {
    const name = draft.trim().slice(0, MAX_LENGTH);
    if (name === "" || name === value) setDraft(value);
    else onRename(name);
  };
  return (
    <input
      aria-label={label}
      className={`truncate rounded border border-transparent bg-transparent px-1 font-semibold hover:border-rule ${className}`}
      value={draft}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}
