/** What the last key decided, with the way back beside it. */
import { useMontage } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

export function Decided() {
  const said = useView((s) => s.decided);
  const { montage, undo } = useMontage();
  // After another step the way back would be another one's.
  if (!said || said.montage !== montage) return null;
  return (
    <p className="flex shrink-0 items-center gap-2 text-[12px] text-fog" aria-live="polite" data-decided>
      <span className="grow truncate">{said.text}</span>
      <button
        className="key px-1.5 py-0"
        onClick={() => {
          undo();
          useView.setState({ decided: null });
        }}
      >
        Take it back
      </button>
    </p>
  );
}
