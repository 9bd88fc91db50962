/** The list of hits, bursts folded, in order of time or of what decisions say; and the chosen one below. */
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { isOfKind, showsSign } from '../../core/document/hits.ts';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Check as Keep, ChevronDown, ChevronRight, X } from 'lucide-react';
import { exampleDetector } from '../../core/finding/detectors/index.ts';
import { ranked } from '../../core/finding/hits/lessons.ts';
import { decide, decideAll, forgetLessons } from '../../core/document/edits.ts';
import { HIT_KINDS, type HitState } from '../../core/document/types.ts';
import { timecode } from '../../core/base/time.ts';
import { hitLook, kindName } from '../parts/kinds.ts';
import { choose } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { useMedia } from '../stores/media.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';
import { Decided } from './decided.tsx';
import { Decision } from './decision.tsx';
import { Kinds } from './kinds-shown.tsx';
import { Onward } from './onward.tsx';

/** Height of a row in pixels, and how many are drawn beyond those in sight. */
const ROW = 30;
const BESIDE = 60;

/** One line of the list: a hit, or a burst with its members. */
type Line = { readonly key: string; readonly first: Occurrence; readonly members: readonly Occurrence[] };

function linesOf(shown: readonly Occurrence[]): Line[] {
  const lines: (Line & { members: Occurrence[] })[] = [];
  const bursts = new Map<string, Line & { members: Occurrence[] }>();
  for (const occurrence of shown) {
    const { burst, source } = occurrence.hit;
    // A burst shown by two clips is two lines.
    const key = burst ? `${source} ${burst} ${occurrence.key.slice(occurrence.hit.id.length)}` : occurrence.key;
    const line = burst ? bursts.get(key) : undefined;
    if (line) line.members.push(occurrence);
    else {
      const made = { key, first: occurrence, members: [occurrence] };
      lines.push(made);
      if (burst) bursts.set(key, made);
    }
  }
  return lines;
}

const isKept = (state: HitState): boolean => state === 'kept' || state === 'made';

export function HitList() {
  const derived = useDerived()!;
  const chosen = useView((s) => s.chosen);
  const byLikelihood = useView((s) => s.byLikelihood);
  const signals = useMedia((s) => s.signals);
  const { shown, everywhere, lessons } = derived;
  const undecided = shown.filter((o) => o.hit.state === 'found').length;
  const kept = shown.filter((o) => isKept(o.hit.state)).length;
  const keptHidden =
    everywhere.filter(({ hit }) => isKept(hit.state) && hit.kind !== 'join').length -
    shown.filter(({ hit }) => isKept(hit.state) && hit.kind !== 'join').length;
  const hit = shown.find((o) => o.key === chosen) ?? null;
  const lines = useMemo(() => {
    const all = linesOf(shown);
    if (!byLikelihood) return all;
    const likely = ({ first: { hit } }: Line): number => (hit.state === 'found' ? ranked(hit, lessons).likely : -1);
    return all.sort((a, b) => likely(b) - likely(a));
  }, [shown, byLikelihood, lessons]);
  const at = Math.max(
    0,
    lines.findIndex((line) => line.members.some((o) => o.key === chosen)),
  );
  const scroller = useRef<HTMLOListElement>(null);
  // A row is as high as its text; open bursts are higher, which only the bar beside the list could tell.
  const list = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: BESIDE,
    getItemKey: (i) => lines[i]!.key,
  });
  useEffect(() => {
    if (chosen) list.scrollToIndex(at, { align: 'auto' });
    // Only a choice scrolls, not what else changes the list.
  }, [chosen]);
  const rows = list.getVirtualItems();
  return (
    <>
      <Kinds />
      <div className="flex items-center gap-2 text-fog">
        <p className="grow" aria-live="polite" data-counts={`${kept}/${undecided}/${shown.length}`}>
          <b className="text-sail">{kept}</b> kept, <b className="text-sail">{undecided}</b> undecided
          {keptHidden > 0 && ` · ${keptHidden} kept of hidden kinds`}
          {Object.keys(signals).length === 0 && ' · nothing has been searched yet'}
        </p>
        <button
          className="key py-0.5 whitespace-nowrap"
          aria-pressed={byLikelihood}
          title="Undecided hits that are most likely kept come first"
          onClick={() => useView.setState({ byLikelihood: !byLikelihood })}
        >
          Likely first
        </button>
        {undecided > 0 && (
          <button
            className="key py-0.5 whitespace-nowrap"
            title="Rejects all that are undecided"
            onClick={() =>
              edit(
                decideAll(
                  shown.filter((o) => o.hit.state === 'found').map((o) => o.hit),
                  'rejected',
                ),
              )
            }
          >
            Reject all
          </button>
        )}
      </div>
      {lessons && (
        <p className="flex items-center gap-2 text-[12px] text-fog">
          <span className="min-w-0 grow">Your {lessons.decisions} decisions rank the rest.</span>
          <button className="key-quiet" onClick={() => edit(forgetLessons)}>
            Forget them
          </button>
        </p>
      )}
      <ol
        ref={scroller}
        className="flex min-h-28 grow basis-0 flex-col gap-px overflow-y-auto rounded-md bg-night p-1"
        aria-label="Hits"
      >
        {rows[0] && <li aria-hidden className="shrink-0" style={{ height: rows[0].start }} />}
        {rows.map(({ index }) => {
          const line = lines[index]!;
          return line.members.length > 1 ? (
            <Burst key={line.key} line={line} chosen={chosen} at={index + 1} count={lines.length} />
          ) : (
            <Row
              key={line.key}
              occurrence={line.first}
              chosen={line.first.key === chosen}
              at={index + 1}
              count={lines.length}
            />
          );
        })}
        {rows.length > 0 && (
          <li aria-hidden className="shrink-0" style={{ height: list.getTotalSize() - rows.at(-1)!.end }} />
        )}
        {shown.length === 0 && (
          <li className="p-2 text-fog">No hits yet. Find them at “Bring in”, or add one with H.</li>
        )}
      </ol>
      <Decided />
      {hit && <Decision occurrence={hit} />}
      <Onward />
    </>
  );
}

/** Folded unless a member other than the first is chosen. Keeping or rejecting means all members. */
const Burst = memo(function Burst({
  line: { first, members },
  chosen,
  at,
  count,
}: { line: Line; chosen: string | null } & Place) {
  const { montage } = useDerived()!;
  const inside = members.some((o, i) => i > 0 && o.key === chosen);
  const [wanted, setOpen] = useState(false);
  const open = wanted || inside;
  const all = (state: HitState): void =>
    edit(
      decideAll(
        members.map((o) => o.hit),
        state,
      ),
    );
  const kept = members.every((o) => isKept(o.hit.state));
  const rejected = members.every((o) => o.hit.state === 'rejected');
  return (
    <li className="rounded" data-burst={members.length} aria-posinset={at} aria-setsize={count}>
      <div className={`flex items-center rounded ${!open && first.key === chosen ? 'bg-rope' : 'hover:bg-plank'}`}>
        <button
          className="key-quiet"
          aria-expanded={open}
          aria-label={`Burst of ${members.length} at frame ${first.frame}`}
          onClick={() => setOpen(!open)}
        >
          {open ? <ChevronDown size={14} /> : <ChevronRight size={14} />}
        </button>
        <button className="min-w-0 grow truncate py-1 text-left" onClick={() => choose(first)}>
          {members.length} × {hitLook(first.hit, montage.families).name} <span className="text-fog">in a burst</span>
        </button>
        <button
          className={`key-quiet ${kept ? 'text-lamp' : ''}`}
          aria-label={`Keep the burst at frame ${first.frame}`}
          onClick={() => all(kept ? 'found' : 'kept')}
        >
          <Keep size={14} />
        </button>
        <button
          className={`key-quiet ${rejected ? 'text-ember' : ''}`}
          aria-label={`Reject the burst at frame ${first.frame}`}
          onClick={() => all(rejected ? 'found' : 'rejected')}
        >
          <X size={14} />
        </button>
      </div>
      {open && (
        <ol className="ml-5">
          {members.map((o) => (
            <Row key={o.key} occurrence={o} chosen={o.key === chosen} />
          ))}
        </ol>
      )}
    </li>
  );
});

/** Place in a list of which only a part is drawn, from 1 on, and its length. */
interface Place {
  readonly at?: number;
  readonly count?: number;
}

// What is scrolled past is not drawn anew.
const Row = memo(function Row({ occurrence, chosen, at, count }: { occurrence: Occurrence; chosen: boolean } & Place) {
  const { line, lessons, montage } = useDerived()!;
  const { hit, frame } = occurrence;
  const row = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (chosen) row.current?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  const look = hitLook(hit, montage.families);
  const also = HIT_KINDS.filter((kind) => kind !== hit.kind && isOfKind(hit, kind));
  const faded = hit.state === 'rejected' ? 'opacity-40 line-through' : '';
  const share = hit.state === 'found' ? ranked(hit, lessons).likely : hit.strength;
  const like = montage.examples.find((example) => hit.evidence.some((e) => e.detector === exampleDetector(example.id)));
  const seen = montage.watches.find(({ id }) => showsSign(hit, id));
  return (
    <li
      className={`flex items-center rounded ${chosen ? 'bg-rope' : 'hover:bg-plank'}`}
      aria-posinset={at}
      aria-setsize={count}
      data-hit={hit.id}
      data-state={hit.state}
    >
      <button
        ref={row}
        className={`flex min-w-0 grow items-center gap-2 px-2 py-1 text-left ${faded}`}
        aria-current={chosen || undefined}
        onClick={() => choose(occurrence)}
      >
        <span
          aria-hidden
          className="size-2.5 shrink-0 rounded-full border"
          style={{
            borderColor: look.colour,
            background: hit.state === 'found' ? 'transparent' : look.colour,
          }}
        />
        <span className="mono text-[12px]">{timecode(frame, line.rate)}</span>
        <span className="grow truncate">
          {like ? `like ${like.name}` : seen ? seen.name : look.name}
          <span className="text-fog">{also.map((kind) => ` · ${kindName(kind)}`)}</span>
        </span>
        <span
          aria-label={`${hit.state === 'found' ? 'likely' : 'strength'} ${Math.round(share * 100)}`}
          className="h-1.5 w-12 overflow-hidden rounded bg-plank"
        >
          <span className="block h-full bg-fog" style={{ width: `${share * 100}%` }} />
        </span>
      </button>
      <button
        className={`key-quiet ${isKept(hit.state) ? 'text-lamp' : ''}`}
        aria-label={`Keep the hit at frame ${frame}`}
        onClick={() => edit(decide(hit, hit.state === 'kept' ? 'found' : 'kept'))}
      >
        <Keep size={14} />
      </button>
      <button
        className={`key-quiet ${hit.state === 'rejected' ? 'text-ember' : ''}`}
        aria-label={`Reject the hit at frame ${frame}`}
        onClick={() => edit(decide(hit, hit.state === 'rejected' ? 'found' : 'rejected'))}
      >
        <X size={14} />
      </button>
    </li>
  );
});
