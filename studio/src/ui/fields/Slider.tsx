interface Props {
  label: string;
  title?: string;
  /** The value in words, for those who cannot see where the thumb is. */
  text: string;
  value: number;
  min: number;
  max: number;
  step: number;
  disabled?: boolean | undefined;
  /** Colours the travel below the thumb. */
  filled?: boolean;
  onChange(value: number): void;
  /** Called when it is let go. */
  onDone(): void;
  /** Called for a double click, which sets a value back. */
  onReset(): void;
}

/** The browser's own slider, in our look. */
export function Slider({
  label,
  title,
  text,
  value,
  min,
  max,
  step,
  disabled,
  filled = false,
  onChange,
  onDone,
  onReset,
}: Props) {
  const share = (Math.min(max, Math.max(min, value)) - min) / (max - min);
  return (
    <input
      type="range"
      aria-label={label}
      aria-valuetext={text}
      title={title}
      className="slider"
      style={{ "--filled": filled ? share : 0 } as React.CSSProperties}
      {...{ min, max, step, value, disabled }}
      onChange={(event) => onChange(event.target.valueAsNumber)}
      onPointerUp={onDone}
      onKeyUp={onDone}
      onDoubleClick={onReset}
    />
  );
}
