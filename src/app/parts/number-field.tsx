/** A narrow field for a number, kept within its limits. */
export function NumberField({
  label,
  value,
  min,
  max,
  step = 1,
  onValue,
}: {
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  onValue: (value: number) => void;
}) {
  return (
    <input
      className="field mono w-12 px-1 py-0 text-[12px]"
      type="number"
      aria-label={label}
      min={min}
      max={max}
      step={step}
      value={value}
      onChange={(event) => {
        const next = Number(event.currentTarget.value);
        if (Number.isFinite(next)) onValue(Math.min(max, Math.max(min, next)));
      }}
    />
  );
}
