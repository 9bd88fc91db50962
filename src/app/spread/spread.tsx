/** Rules: which accent lies on which hits. */
import { useMemo } from 'react';
import { useNavigate } from 'react-router';
import type { Placement } from '../../core/accents/placements.ts';
import { useRestedDerived } from '../stores/rested.ts';
import { spreadAccent } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { useView } from '../stores/view.ts';
import { AccentPicker } from './accent-picker.tsx';
import { Beds } from './beds.tsx';
import { Titles } from './titles.tsx';
import { Order } from './order.tsx';
import { PlacementRow } from './placement-row.tsx';
import { RuleRow } from './rule-row.tsx';
import { Safety } from './safety.tsx';

const NONE: readonly Placement[] = [];

export function Spread() {
  const derived = useDerived()!;
  const go = useNavigate();
  const accent = useView((s) => s.accent);
  const chosen = useView((s) => s.chosen);
  const { montage } = derived;
  const rested = useRestedDerived();
  const first = montage.accents.find((a) => a.id === accent) ?? montage.accents[0];
  const placements = rested?.planner.placements ?? NONE;
  const counts = useMemo(() => {
    const found = new Map<string | undefined, number>();
    for (const { rule, muted } of placements) if (!muted) found.set(rule?.id, (found.get(rule?.id) ?? 0) + 1);
    return found;
  }, [placements]);
  const placed = [...counts.values()].reduce((sum, count) => sum + count, 0);
  const here = placements.filter((p) => p.occurrence.key === chosen);
  return (
    <>
      <h2 className="caption">Rules</h2>
      <ol className="flex flex-col gap-2">
        {montage.rules.map((rule) => (
          <RuleRow key={rule.id} rule={rule} count={counts.get(rule.id) ?? 0} />
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
      <Titles />
      <Safety />
      <Order />
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
