import { NumberField } from "./NumberField";
import { Slider } from "./Slider";

interface Props {
  label: string;
  value: number;
  unit: string;
  min: number;
  max: number;
  step: number;
  disabled?: boolean;
  /** Value set by a double click. */
  resetTo?: number;
  /** Reads other ways of writing the number. */
  read?(text: string): number | undefined;
  /** Width of the figures, in characters. */
  chars?: number;
  /** Scale of the slider's travel: times are perceived in ratios. */
  curve?: "linear" | "square";
  onChange(value: number): void;
  onDone(): void;
}

/** A slider with its number, which can be typed. */
export function SliderField({
  label,
  value,
  unit,
  min,
  max,
  step,
  disabled,
  curve = "linear",
  resetTo,
  read,
  chars,
  onChange,
  onDone,
}: Props) {
  const span = max - min;
  const toTravel = (v: number) => (curve === "square" ? Math.sqrt((v - min) / span) : (v - min) / span);
  const toValue = (travel: number) => {
    const raw = min + span * (curve === "square" ? travel * travel : travel);
    return Math.min(max, Math.max(min, Number((Math.round(raw / step) * step).toFixed(6))));
  };
  return (
    <div className="grid gap-0.5">
      <div className="flex items-baseline justify-between gap-2">
        <span className="text-sm text-mist">{label}</span>
        <NumberField {...{ label, value, unit, min, max, step, disabled, read, chars, onChange, onDone }} />
      </div>
      <Slider
        filled
        label={label}
        text={`${value} ${unit}`}
        min={0}
        max={1}
        step={0.002}
        disabled={disabled}
        value={toTravel(value)}
        onChange={(travel) => onChange(toValue(travel))}
        onDone={onDone}
        onReset={() => {
          if (resetTo !== undefined) onChange(resetTo);
          onDone();
        }}
      />
    </div>
  );
}
