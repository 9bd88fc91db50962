/** Undecided hits as a sheet of their frames: kept and rejected by a press, by sweeping over many, or by keys. */
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { decideAll } from '../../core/document/edits.ts';
import type { HitState } from '../../core/document/types.ts';
import { ranked } from '../../core/finding/hits/lessons.ts';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { hitLook } from '../parts/kinds.ts';
import { choose } from '../stores/actions.ts';
import { useDerived, type Derived } from '../stores/derived.ts';
import { edit, newGesture } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';
import { Decided } from './decided.tsx';
import { Kinds } from './kinds-shown.tsx';
import { Onward } from './onward.tsx';

const COLUMNS = 2;
/** Height of a card and the gap below it, pixels. */
const CARD = 112;

const SORTS = { time: 'by time', doubt: 'most doubtful first', strength: 'strongest first' } as const;
type Sort = keyof typeof SORTS;

function sorted(list: readonly Occurrence[], sort: Sort, { lessons }: Derived): Occurrence[] {
  const doubt = ({ hit }: Occurrence): number => Math.abs(ranked(hit, lessons).likely - 0.5);
  if (sort === 'doubt') return [...list].sort((a, b) => doubt(a) - doubt(b));
  if (sort === 'strength') return [...list].sort((a, b) => b.hit.strength - a.hit.strength);
  return [...list];
}

export function ContactSheet() {
  const derived = useDerived()!;
  const { shown, found } = derived;
  const hidden = useView((s) => s.hidden);
  const chosen = useView((s) => s.chosen);
  const [sort, setSort] = useState<Sort>('time');
  const [round, setRound] = useState(0);
  const scroller = useRef<HTMLDivElement>(null);
  const sweep = useRef<{ state: HitState; gesture: string } | null>(null);
  // What was decided stays in its place until the sheet is tidied: nothing moves under the hand.
  const keys = useMemo(
    () =>
      sorted(
        shown.filter(({ hit }) => hit.state === 'found'),
        sort,
        derived,
      ).map(({ key }) => key),
    [found, hidden, sort, round],
  );
  const cards = useMemo(() => {
    const byKey = new Map(shown.map((o) => [o.key, o]));
    return keys.flatMap((key) => byKey.get(key) ?? []);
  }, [keys, shown]);
  const left = shown.filter(({ hit }) => hit.state === 'found').length;
  // Keys go on in the order that is seen.
  useEffect(() => {
    useView.setState({ order: keys });
    return () => useView.setState({ order: null });
  }, [keys]);
  const rows = useVirtualizer({
    count: Math.ceil(cards.length / COLUMNS),
    getScrollElement: () => scroller.current,
    estimateSize: () => CARD,
    overscan: 3,
  });
  const at = cards.findIndex(({ key }) => key === chosen);
  useEffect(() => {
    if (at >= 0) rows.scrollToIndex(Math.floor(at / COLUMNS), { align: 'auto' });
    // Only a choice scrolls.
  }, [chosen]);
  const decide = (o: Occurrence): void => {
    if (sweep.current && o.hit.state !== sweep.current.state)
      edit(decideAll([o.hit], sweep.current.state), sweep.current.gesture);
  };
  const begin = (o: Occurrence, event: PointerEvent): void => {
    if (event.button !== 0 && event.button !== 2) return;
    event.preventDefault();
    const wanted = event.button === 2 || event.altKey ? 'rejected' : 'kept';
    sweep.current = { state: o.hit.state === wanted ? 'found' : wanted, gesture: newGesture() };
    decide(o);
  };
  useEffect(() => {
    const end = (): void => void (sweep.current = null);
    addEventListener('pointerup', end);
    addEventListener('pointercancel', end);
    return () => {
      removeEventListener('pointerup', end);
      removeEventListener('pointercancel', end);
    };
  }, []);
  return (
    <>
      <Kinds />
      <div className="flex items-center gap-2 text-[12px] text-fog">
        <p className="grow" aria-live="polite" data-left={left}>
          <b className="text-sail">{left}</b> left
        </p>
        <select
          className="field py-0"
          aria-label="Order of the frames"
          value={sort}
          onChange={(event) => setSort(event.currentTarget.value as Sort)}
        >
          {Object.entries(SORTS).map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        <button
          className="key px-1.5 py-0"
          title="Takes what is decided out of the sheet"
          onClick={() => setRound(round + 1)}
        >
          Hide decided
        </button>
      </div>
      <div
        ref={scroller}
        className="min-h-28 grow basis-0 overflow-y-auto rounded-md bg-night p-1 select-none"
        onContextMenu={(event) => event.preventDefault()}
      >
        <ol
          className="relative"
          style={{ height: rows.getTotalSize() }}
          aria-label="Frames of undecided hits"
          title="Press: keep. Alt or the other button: reject. Hold and sweep over many."
        >
          {rows.getVirtualItems().flatMap(({ index, start }) =>
            cards.slice(index * COLUMNS, (index + 1) * COLUMNS).map((o, i) => (
              <Card
                key={o.key}
                occurrence={o}
                chosen={o.key === chosen}
                place={[index * COLUMNS + i, cards.length]}
                style={{ top: start, left: `${(100 * i) / COLUMNS}%` }}
                onPointerDown={(event) => begin(o, event)}
                onPointerEnter={() => {
                  if (sweep.current) decide(o);
                  // The large picture is the stage's.
                  else choose(o);
                }}
              />
            )),
          )}
        </ol>
        {cards.length === 0 && <p className="p-2 text-fog">No hit of these kinds is undecided.</p>}
      </div>
      <Decided />
      <Onward />
    </>
  );
}

const EDGES: Record<HitState, string> = {
  found: 'border-transparent',
  kept: 'border-lamp',
  made: 'border-lamp',
  rejected: 'border-ember opacity-40',
};

function Card({
  occurrence: { hit, frame },
  chosen,
  place: [index, count],
  style,
  onPointerDown,
  onPointerEnter,
}: {
  occurrence: Occurrence;
  chosen: boolean;
  place: readonly [number, number];
  style: { readonly top: number; readonly left: string };
  onPointerDown: (event: PointerEvent) => void;
  onPointerEnter: () => void;
}) {
  const { montage, lessons } = useDerived()!;
  const look = hitLook(hit, montage.families);
  const { width, height } = montage.settings;
  return (
    <li
      className="absolute p-0.5"
      style={{ ...style, width: `${100 / COLUMNS}%`, height: CARD }}
      aria-posinset={index + 1}
      aria-setsize={count}
      data-card={hit.id}
      data-state={hit.state}
      {...{ onPointerDown, onPointerEnter }}
    >
      <div
        className={`h-full overflow-hidden rounded border-2 bg-plank ${EDGES[hit.state]} ${chosen ? 'outline-1 outline-sail' : ''}`}
      >
        <span className="pointer-events-none flex h-[84px] justify-center bg-black">
          <FramePicture
            frame={frame}
            width={Math.round((168 * width) / height)}
            height={168}
            plain
            label={`${look.name} at frame ${frame}, ${hit.state}`}
          />
        </span>
        <span className="flex items-center gap-1 px-1 text-[11px] text-fog">
          <span aria-hidden className="size-2 rounded-full" style={{ background: look.colour }} />
          <span className="grow truncate">{look.name}</span>
          {hit.state === 'found' ? `${Math.round(ranked(hit, lessons).likely * 100)} %` : hit.state}
        </span>
      </div>
    </li>
  );
}
