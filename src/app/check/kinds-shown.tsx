/** The kinds and named families that are shown and gone through. */
import { useMemo } from 'react';
import { labelsOf, ownNamed } from '../../core/document/families.ts';
import { HIT_KINDS } from '../../core/document/types.ts';
import { familyColour, KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { useDerived } from '../stores/derived.ts';
import { useView } from '../stores/view.ts';

/** Which kinds are shown, a flash that was heard as a shot as both; what is hidden is neither stepped to nor kept with the rest. */
export function Kinds() {
  const { everywhere, montage } = useDerived()!;
  const hidden = useView((s) => s.hidden);
  const { families } = montage;
  const counts = useMemo(() => {
    const all = new Map<string, number>();
    for (const { hit } of everywhere)
      for (const label of labelsOf(hit, families)) all.set(label, (all.get(label) ?? 0) + 1);
    return all;
  }, [everywhere, families]);
  const chips = [
    ...ownNamed(families).map((family) => ({
      label: family.id,
      name: family.name,
      colour: familyColour({ named: family, kind: family.kind }),
    })),
    ...HIT_KINDS.map((kind) => ({ label: kind as string, name: kindName(kind), colour: KIND_COLOURS[kind] })),
  ].filter(({ label }) => counts.get(label));
  return (
    <div className="flex flex-wrap gap-1" role="group" aria-label="Kinds shown">
      {chips.map(({ label, name, colour }) => {
        const on = !hidden.includes(label);
        return (
          <button
            key={label}
            className={`key gap-1 px-1.5 py-px text-[12px] ${on ? '' : 'text-fog line-through'}`}
            aria-pressed={on}
            title="Double click: only these"
            onDoubleClick={() =>
              useView.setState({ hidden: chips.flatMap((chip) => (chip.label === label ? [] : [chip.label])) })
            }
            onClick={() => useView.setState({ hidden: on ? [...hidden, label] : hidden.filter((k) => k !== label) })}
          >
            <span aria-hidden className="size-2 rounded-full" style={{ background: colour }} />
            {name} {counts.get(label)}
          </button>
        );
      })}
    </div>
  );
}
