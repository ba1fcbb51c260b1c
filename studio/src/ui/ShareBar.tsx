/** A bar that shows how much of something is done, 0..1. */
export function ShareBar({ label, share }: { label: string; share: number }) {
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={Math.round(100 * share)}
      className="h-1.5 overflow-hidden rounded bg-rule"
    >
      <div className="h-full bg-brass" style={{ width: `${100 * share}%` }} />
    </div>
  );
}
