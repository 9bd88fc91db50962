/** One of a few, by its name. */
export function Choice<T extends string>({
  label,
  value,
  options,
  names,
  className = 'field min-w-0 py-0.5',
  onValue,
}: {
  label: string;
  value: T;
  options: readonly T[];
  names: Record<T, string>;
  className?: string;
  onValue: (value: T) => void;
}) {
  return (
    <select
      className={className}
      aria-label={label}
      value={value}
      onChange={(event) => onValue(event.currentTarget.value as T)}
    >
      {options.map((option) => (
        <option key={option} value={option}>
          {names[option]}
        </option>
      ))}
    </select>
  );
}
