/** Sections of the montage to choose: what lies between the kept drops of its music. */
import { useMemo } from 'react';
import { carries } from '../../core/document/hits.ts';
import { sectionName, sectionStarts } from '../../core/timeline/sections.ts';
import { useDerived } from '../stores/derived.ts';

/** Nothing where there is but one. None chosen: all of them. */
export function Sections({ chosen, onChosen }: { chosen: readonly number[]; onChosen: (sections: number[]) => void }) {
  const { shown, line } = useDerived()!;
  const starts = useMemo(() => sectionStarts(shown.filter(({ hit }) => carries(hit))), [shown]);
  const all = [...new Set([...starts.keys(), ...chosen])].sort((a, b) => a - b);
  if (all.length < 2) return null;
  return (
    <div className="flex flex-wrap items-center gap-1" role="group" aria-label="Sections">
      in
      {all.map((section) => (
        <button
          key={section}
          className="key px-1.5 py-0"
          aria-pressed={chosen.includes(section)}
          title={
            starts[section] === undefined
              ? 'There is no such drop now'
              : `From ${line.timeOf(starts[section]).toFixed(1)} s`
          }
          onClick={() =>
            onChosen(chosen.includes(section) ? chosen.filter((one) => one !== section) : [...chosen, section])
          }
        >
          {sectionName(section)}
        </button>
      ))}
    </div>
  );
}
