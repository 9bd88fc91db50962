/** What comes next: keeping what is undecided, then shaping an accent. */
import { useNavigate } from 'react-router';
import { Check as Keep } from 'lucide-react';
import { keepAllUndecided } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';

export function Onward() {
  const { shown, montage } = useDerived()!;
  const go = useNavigate();
  const undecided = shown.filter((o) => o.hit.state === 'found').length;
  return (
    <div className="foot">
      {undecided > 0 ? (
        <button className="key-main" data-main onClick={keepAllUndecided}>
          <Keep size={16} />
          Keep all {undecided} undecided
        </button>
      ) : (
        <button className="key-main" data-main onClick={() => void go(`/montage/${montage.id}/shape`)}>
          Shape an accent
        </button>
      )}
    </div>
  );
}
