/** The montage's accents to choose from; without a chosen one it asks to choose. */
import { useDerived } from '../stores/derived.ts';

export function AccentPicker({
  label,
  chosen = '',
  onPick,
}: {
  label: string;
  chosen?: string;
  onPick: (id: string) => void;
}) {
  const { montage } = useDerived()!;
  return (
    <select
      className="field min-w-0 grow"
      aria-label={label}
      value={chosen}
      onChange={(event) => event.currentTarget.value && onPick(event.currentTarget.value)}
    >
      {!chosen && <option value="">choose an accent</option>}
      {montage.accents.map((item) => (
        <option key={item.id} value={item.id}>
          {item.name}
        </option>
      ))}
    </select>
  );
}
