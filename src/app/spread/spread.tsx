/** Rules: which accent lies on which hits. */
import { useNavigate } from 'react-router';
import { spreadAccent } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { useView } from '../stores/view.ts';
import { AccentPicker } from './accent-picker.tsx';
import { Beds } from './beds.tsx';
import { PlacementRow } from './placement-row.tsx';
import { RuleRow } from './rule-row.tsx';
import { Safety } from './safety.tsx';

export function Spread() {
  const derived = useDerived()!;
  const go = useNavigate();
  const accent = useView((s) => s.accent);
  const chosen = useView((s) => s.chosen);
  const { montage, planner } = derived;
  const first = montage.accents.find((a) => a.id === accent) ?? montage.accents[0];
  const placed = planner.placements.filter((p) => !p.muted).length;
  const here = planner.placements.filter((p) => p.occurrence.key === chosen);
  return (
    <>
      <h2 className="caption">Rules</h2>
      <ol className="flex flex-col gap-2">
        {montage.rules.map((rule) => (
          <RuleRow
            key={rule.id}
            rule={rule}
            count={planner.placements.filter((p) => p.rule?.id === rule.id && !p.muted).length}
          />
        ))}
        {montage.rules.length === 0 && (
          <li className="text-fog">No rule yet. A rule lays accents on the kept hits that you describe.</li>
        )}
      </ol>
      {montage.accents.length > 0 && (
        <label className="flex items-center gap-2 text-fog">
          Another rule for
          <AccentPicker label="Add a rule for an accent" onPick={spreadAccent} />
        </label>
      )}
      <Beds />
      <Safety />
      <h2 className="caption">On the chosen hit</h2>
      {here.length === 0 && (
        <p className="text-fog">
          {chosen
            ? 'Nothing lies on this hit. A lays the accent you worked on last.'
            : 'Choose a hit in the sheet below.'}
        </p>
      )}
      {here.map((placement) => (
        <PlacementRow key={placement.key} placement={placement} />
      ))}
      <div className="foot">
        {montage.rules.length === 0 && first ? (
          <button className="key-main" data-main onClick={() => spreadAccent(first.id)}>
            Lay “{first.name}” on the kept hits
          </button>
        ) : (
          <button className="key-main" data-main onClick={() => void go(`/montage/${montage.id}/export`)}>
            Export with {placed} accents
          </button>
        )}
      </div>
    </>
  );
}
