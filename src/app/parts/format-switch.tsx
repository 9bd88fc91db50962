/** Which format of the montage is looked at; nothing where there is only one. */
import { formatsOf } from '../../core/document/formats.ts';
import { useMontage } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

export function FormatSwitch() {
  const montage = useMontage((s) => s.montage);
  const shown = useView((s) => s.format);
  if (!montage?.formats.length) return null;
  return (
    <div
      className="absolute top-3 right-3 z-10 flex items-center gap-1"
      role="group"
      aria-label="Format that is looked at"
    >
      {formatsOf(montage).map(({ id, name }) => (
        <button
          key={id ?? ''}
          className="key px-1.5 py-0 text-[12px]"
          aria-pressed={shown === id}
          onClick={() => useView.setState({ format: id })}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
