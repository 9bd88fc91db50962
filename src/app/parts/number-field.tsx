/** A field for a number: what is half typed is never changed, what is left is what counts. */
import { useState } from 'react';

export function NumberField({
  label,
  value,
  min,
  max,
  step = 1,
  className = 'field mono w-12 px-1 py-0 text-[12px]',
  onLeave = false,
  onValue,
}: {
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  className?: string;
  /** Acts when the field is left or Enter is pressed, for what cannot be taken back by what is typed next. */
  onLeave?: boolean;
  onValue: (value: number) => void;
}) {
  /** The text while it is typed; null while the field shows the value. */
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <input
      className={className}
      type="number"
      aria-label={label}
      min={min}
      max={max}
      step={step}
      value={typed ?? value}
      onChange={(event) => {
        const text = event.currentTarget.value;
        setTyped(text);
        const next = Number(text);
        // Acts while it is typed; beyond the limits it waits for what else is typed, and the limit counts on leaving.
        if (!onLeave && text.trim() !== '' && next >= min && next <= max) onValue(next);
      }}
      onBlur={() => {
        const next = Number(typed);
        const acted = !onLeave && next >= min && next <= max;
        if (typed !== null && typed.trim() !== '' && Number.isFinite(next) && !acted)
          onValue(Math.min(max, Math.max(min, next)));
        setTyped(null);
      }}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
      }}
    />
  );
}
