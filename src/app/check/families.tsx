/** Families of the same sound: named once, kept or rejected all together. */
import { useEffect, useState } from 'react';
import { useDerived } from '../stores/derived.ts';
import { currentFamily, shownFamilies, sortFamilies, useFamilies } from '../stores/families.ts';
import { useView } from '../stores/view.ts';
import { Onward } from './onward.tsx';
import { FamilyCard } from './family-card.tsx';

/** Milliseconds that hits must stand still before they are sorted again. */
const SETTLED = 400;

export function Families() {
  const derived = useDerived()!;
  const families = useFamilies();
  // The current family is that of the chosen hit.
  const chosen = useView((s) => s.chosen);
  const [all, setAll] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => void sortFamilies(), SETTLED);
    return () => clearTimeout(timer);
  }, [derived.everywhere, derived.montage.families]);
  const shown = shownFamilies(derived, families);
  const asked = shown.filter(({ waits }) => waits);
  const listed = all ? shown : asked.length ? asked : shown;
  const current = (chosen && currentFamily(shown)) || listed[0];
  const kin = new Set(shown.flatMap(({ hits }) => hits.map(({ id }) => id)));
  const single = new Set(
    derived.everywhere.filter((o) => o.hit.audioT !== undefined && !kin.has(o.hit.id)).map((o) => o.hit.id),
  ).size;
  return (
    <>
      <p className="text-fog" data-families={shown.length} data-asked={asked.length}>
        {shown.length === 0 ? (
          'Nothing that is heard comes again here yet.'
        ) : (
          <>
            <b className="text-sail">{shown.length}</b> sounds come again, {single} only once.{' '}
            {asked.length > 0 ? (
              <>
                <b className="text-sail">{asked.length}</b> {asked.length === 1 ? 'answer is' : 'answers are'} still
                worth giving.
              </>
            ) : (
              'Every one of them is answered.'
            )}
          </>
        )}
      </p>
      <label
        className="flex items-center gap-2 text-[12px] text-fog"
        title="Lower puts more together, higher keeps more apart"
      >
        Alike from
        <input
          className="range grow"
          type="range"
          min={0.25}
          max={0.9}
          step={0.01}
          value={families.cut}
          aria-label="Likeness from which sounds are one family"
          onChange={(event) => useFamilies.setState({ cut: Number(event.currentTarget.value) })}
        />
        <span className="mono w-9 text-right">{Math.round(families.cut * 100)} %</span>
      </label>
      <ol
        className="flex min-h-28 grow basis-0 flex-col gap-2 overflow-y-auto p-px"
        aria-label="Families of the same sound"
      >
        {listed.map((family) => (
          <FamilyCard key={family.id} family={family} current={family.id === current?.id} all={shown} />
        ))}
      </ol>
      {asked.length > 0 && asked.length < shown.length && (
        <button className="key-quiet self-start text-[12px]" onClick={() => setAll(!all)}>
          {all ? 'Only those worth an answer' : `Show all ${shown.length}`}
        </button>
      )}
      <Onward />
    </>
  );
}
