/** Families of the same sound: named once, kept or rejected all together. */
import { useEffect, useState } from 'react';
import { Check as Keep, Volume2, X } from 'lucide-react';
import { HIT_KINDS, type HitKind } from '../../core/document/types.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { choose } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import {
  answerFamily,
  currentFamily,
  hearFamily,
  moreOfFamily,
  shownFamilies,
  sortFamilies,
  useFamilies,
  type ShownFamily,
} from '../stores/families.ts';
import { useView } from '../stores/view.ts';

/** Contact frames of a family, from its first member to its last. */
const CONTACTS = 6;
/** Milliseconds that hits must stand still before they are sorted again. */
const SETTLED = 400;

export function Families() {
  const derived = useDerived()!;
  const families = useFamilies();
  const chosen = useView((s) => s.chosen);
  const [all, setAll] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => void sortFamilies(), SETTLED);
    return () => clearTimeout(timer);
  }, [derived.everywhere]);
  const shown = shownFamilies(derived, families);
  const asked = shown.filter(({ changes }) => changes > 0);
  const listed = all ? shown : asked.length ? asked : shown;
  const current = chosen ? currentFamily(shown) : listed[0];
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
              'No answer would change much any more.'
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
      <ol className="flex min-h-28 grow basis-0 flex-col gap-2 overflow-y-auto" aria-label="Families of the same sound">
        {listed.map((family) => (
          <FamilyCard key={family.id} family={family} current={family.id === current?.id} />
        ))}
      </ol>
      {asked.length > 0 && asked.length < shown.length && (
        <button className="key-quiet self-start text-[12px]" onClick={() => setAll(!all)}>
          {all ? 'Only those worth an answer' : `Show all ${shown.length}`}
        </button>
      )}
    </>
  );
}

function FamilyCard({ family, current }: { family: ShownFamily; current: boolean }) {
  const { hits, shown } = family;
  const kept = hits.filter(({ state }) => state === 'kept' || state === 'made').length;
  const rejected = hits.filter(({ state }) => state === 'rejected').length;
  const [name, setName] = useState<HitKind>(family.kind);
  // From the beginning to the end of the recording.
  const contacts = Array.from(
    { length: Math.min(CONTACTS, shown.length) },
    (_, i) => shown[Math.round((i * (shown.length - 1)) / Math.max(1, Math.min(CONTACTS, shown.length) - 1))]!,
  );
  return (
    <li
      className={`rounded-md p-2 ${current ? 'bg-plank ring-1 ring-lamp' : 'bg-plank/60'}`}
      data-family={family.id}
      data-state={`${kept}/${rejected}/${hits.length}`}
    >
      <div className="flex items-center gap-2">
        <span aria-hidden className="size-2.5 rounded-full" style={{ background: KIND_COLOURS[family.kind] }} />
        <span className="font-medium whitespace-nowrap">{hits.length} ×</span>
        <select
          className="field w-24 py-0.5 text-[12px]"
          aria-label={`What these ${hits.length} are`}
          value={name}
          onChange={(event) => {
            const kind = event.currentTarget.value as HitKind;
            setName(kind);
            answerFamily(family, 'kept', kind);
          }}
        >
          {HIT_KINDS.filter((kind) => kind !== 'join').map((kind) => (
            <option key={kind} value={kind}>
              {kindName(kind)}
            </option>
          ))}
        </select>
        <span className="grow text-[12px] whitespace-nowrap text-fog">
          likely {Math.round(family.confidence * 100)} %
        </span>
        <span className="text-[12px] whitespace-nowrap text-fog">
          {kept > 0 && `${kept} kept `}
          {rejected > 0 && `${rejected} rejected `}
          {family.open > 0 && `${family.open} open`}
        </span>
      </div>
      {family.satellite && (
        <p className="mt-0.5 text-[12px] text-lamp">
          Always {Math.round(family.satellite.gap * 1000)} ms after another sound: probably a part of it.
        </p>
      )}
      <ol className="mt-1.5 grid grid-cols-6 gap-0.5">
        {contacts.map((o) => (
          <li key={o.key}>
            <button
              className="block w-full overflow-hidden rounded-sm hover:ring-1 hover:ring-tide"
              onClick={() => choose(o)}
            >
              <FramePicture frame={o.frame} width={96} height={54} plain label={`Member at frame ${o.frame}`} />
            </button>
          </li>
        ))}
      </ol>
      <div className="mt-1.5 flex items-center gap-1">
        <button
          className="key px-1.5 py-0.5 whitespace-nowrap"
          title="Plays the members one after another (Shift L)"
          onClick={() => hearFamily(family)}
        >
          <Volume2 size={14} />
          Hear
        </button>
        <button
          className="key px-1.5 py-0.5 whitespace-nowrap"
          title="Keeps all members (Shift K)"
          onClick={() => answerFamily(family, 'kept')}
        >
          <Keep size={14} />
          Keep all
        </button>
        <button
          className="key px-1.5 py-0.5 whitespace-nowrap"
          title="Rejects all members (Shift R)"
          onClick={() => answerFamily(family, 'rejected')}
        >
          <X size={14} />
          Reject all
        </button>
        <button
          className="key-quiet px-1.5 py-0.5 whitespace-nowrap"
          title="Looks for more of this sound, fainter ones too"
          onClick={() => moreOfFamily(family)}
        >
          More
        </button>
      </div>
    </li>
  );
}
