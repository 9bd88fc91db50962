/** Parting a family, by likeness, by loudness or by what is seen with it, and joining it with another. */
import { useState } from 'react';
import { seenWith } from '../../core/finding/families/families.ts';
import { familyName, type ShownFamily } from '../stores/families.ts';
import { joinFamilies, partBy, partByLikeness, sidesOf } from '../stores/family-answers.ts';

const WAYS = { likeness: 'likeness', loud: 'loudness', seen: 'what is seen with it' } as const;

export function FamilyParts({ family, all }: { family: ShownFamily; all: readonly ShownFamily[] }) {
  const [way, setWay] = useState<keyof typeof WAYS>('loud');
  const values = way === 'loud' ? family.loud : family.hits.map(seenWith);
  const [least, most] = [Math.min(...values), Math.max(...values)];
  const [at, setAt] = useState<number | null>(null);
  const from = at ?? (least + most) / 2;
  const sides = way === 'likeness' ? null : sidesOf(family, way, from);
  const value = way === 'loud' ? `${Math.round(from)} dB` : `${Math.round(from * 100)}`;
  return (
    <>
      <div className="flex items-center gap-2 text-fog">
        <span className="whitespace-nowrap">Split by</span>
        <select
          className="field min-w-0 grow py-0.5"
          aria-label="Split this family by"
          value={way}
          onChange={(event) => {
            setWay(event.currentTarget.value as keyof typeof WAYS);
            setAt(null);
          }}
        >
          {Object.entries(WAYS).map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
        <button
          className="key px-1.5 py-0.5"
          onClick={() => (way === 'likeness' ? partByLikeness(family) : partBy(family, way, from))}
        >
          Split
        </button>
      </div>
      {sides && (
        <label className="flex items-center gap-2 text-fog">
          <input
            className="range min-w-0 grow"
            type="range"
            min={least}
            max={most}
            step={way === 'loud' ? 0.5 : 0.01}
            value={from}
            aria-label={way === 'loud' ? 'Loudness that splits it' : 'What is seen that splits it'}
            onChange={(event) => setAt(Number(event.currentTarget.value))}
          />
          <span className="text-[11px] whitespace-nowrap" data-sides={`${sides.above.length}/${sides.below.length}`}>
            {value}: {sides.above.length} over, {sides.below.length} under
          </span>
        </label>
      )}
      {all.some((other) => other.id !== family.id && other.source === family.source) && (
        <label className="flex items-center gap-2 text-fog">
          <span className="whitespace-nowrap">Merge with</span>
          <select
            className="field min-w-0 grow py-0.5"
            aria-label="Merge this family with"
            value=""
            onChange={(event) => {
              const other = all.find(({ id }) => id === event.currentTarget.value);
              if (other) joinFamilies(family, other);
            }}
          >
            <option value="">another…</option>
            {all
              .filter((other) => other.id !== family.id && other.source === family.source)
              .map((other) => (
                <option key={other.id} value={other.id}>
                  {other.hits.length} × {familyName(other)} at {other.example.t.toFixed(1)} s
                </option>
              ))}
          </select>
        </label>
      )}
    </>
  );
}
