/** Go through the hits: sensitivities, the list, and the decision on each. */
import { useEffect, useRef } from 'react';
import { useNavigate } from 'react-router';
import { Check as Keep, X } from 'lucide-react';
import { DETECTORS } from '../../core/detectors/index.ts';
import { decide, decideAll, setKind, setSensitivity } from '../../core/montage/edits.ts';
import { HIT_KINDS, type HitKind } from '../../core/montage/types.ts';
import { timecode } from '../../core/units/time.ts';
import type { Occurrence } from '../../core/hits/hits.ts';
import { KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { choose, decideChosen, keepAllUndecided, nudgeChosen } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useSession } from '../stores/session.ts';
import { useMedia } from '../stores/media.ts';

const MOST_ROWS = 400;

export function Check() {
  const derived = useDerived()!;
  const chosen = useSession((s) => s.chosen);
  const signals = useMedia((s) => s.signals);
  const go = useNavigate();
  const { shown, montage } = derived;
  const undecided = shown.filter((o) => o.hit.state === 'found').length;
  const kept = shown.filter((o) => o.hit.state === 'kept' || o.hit.state === 'made').length;
  const hit = shown.find((o) => o.key === chosen) ?? null;
  const at = hit ? shown.indexOf(hit) : 0;
  const from = Math.max(0, Math.min(at - MOST_ROWS / 2, shown.length - MOST_ROWS));
  return (
    <>
      <div className="flex flex-col gap-1.5">
        {DETECTORS.map((detector) => (
          <label key={detector.id} className="grid grid-cols-[84px_1fr_38px] items-center gap-2" title={detector.doc}>
            <span className="text-fog">{detector.name}</span>
            <input className="range" type="range" min={0} max={1} step={0.01} aria-label={`Sensitivity of ${detector.name.toLowerCase()}`}
              value={montage.sensitivity[detector.id] ?? detector.sensitivity}
              onChange={(event) => edit(setSensitivity(detector.id, Number(event.currentTarget.value)), `sensitivity-${detector.id}`)} />
            <span className="mono text-right text-[12px] text-fog">{Math.round((montage.sensitivity[detector.id] ?? detector.sensitivity) * 100)}</span>
          </label>
        ))}
      </div>
      <Kinds />
      <p className="text-fog" aria-live="polite" data-counts={`${kept}/${undecided}/${shown.length}`}>
        <b className="text-sail">{kept}</b> kept, <b className="text-sail">{undecided}</b> undecided of {shown.length}
        {Object.keys(signals).length === 0 && ' · nothing has been searched yet'}
      </p>
      {shown.length > MOST_ROWS && <p className="text-[12px] text-fog">Showing {MOST_ROWS} around the chosen hit.</p>}
      <ol className="flex min-h-32 grow basis-0 flex-col gap-px overflow-y-auto rounded-md bg-night p-1" aria-label="Hits">
        {shown.slice(from, from + MOST_ROWS).map((occurrence) => <Row key={occurrence.key} occurrence={occurrence} chosen={occurrence.key === chosen} />)}
        {shown.length === 0 && <li className="p-2 text-fog">No hits yet. Find them at “Bring in”, or add one with H.</li>}
      </ol>
      {hit && <Decision occurrence={hit} />}
      <div className="foot">
        {undecided > 0
          ? <button className="key-main" data-main onClick={keepAllUndecided}><Keep size={16} />Keep all {undecided} undecided</button>
          : <button className="key-main" data-main onClick={() => void go(`/montage/${montage.id}/shape`)}>Shape an accent</button>}
        {undecided > 0 && <button className="key-quiet mt-2 w-full justify-center" onClick={() => edit(decideAll(shown.filter((o) => o.hit.state === 'found').map((o) => o.hit), 'rejected'))}>Reject all undecided</button>}
      </div>
    </>
  );
}

/** Which kinds are shown; what is hidden is neither stepped to nor kept with the rest. */
function Kinds() {
  const { everywhere } = useDerived()!;
  const hidden = useSession((s) => s.hidden);
  const counts = new Map<HitKind, number>();
  for (const { hit } of everywhere) counts.set(hit.kind, (counts.get(hit.kind) ?? 0) + 1);
  return (
    <div className="flex flex-wrap gap-1" role="group" aria-label="Kinds shown">
      {HIT_KINDS.filter((kind) => counts.has(kind)).map((kind) => {
        const on = !hidden.includes(kind);
        return (
          <button key={kind} className={`key py-0.5 ${on ? '' : 'text-fog line-through'}`} aria-pressed={on} onClick={() => useSession.setState({ hidden: on ? [...hidden, kind] : hidden.filter((k) => k !== kind) })}>
            <span aria-hidden className="size-2 rounded-full" style={{ background: KIND_COLOURS[kind] }} />{kindName(kind)} {counts.get(kind)}
          </button>
        );
      })}
    </div>
  );
}

function Row({ occurrence, chosen }: { occurrence: Occurrence; chosen: boolean }) {
  const derived = useDerived()!;
  const { hit, frame } = occurrence;
  const row = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (chosen) row.current?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  const faded = hit.state === 'rejected' ? 'opacity-40 line-through' : '';
  return (
    <li className={`flex items-center rounded ${chosen ? 'bg-rope' : 'hover:bg-plank'}`} data-hit={hit.id} data-state={hit.state}>
      <button ref={row} className={`flex min-w-0 grow items-center gap-2 px-2 py-1 text-left ${faded}`} aria-current={chosen || undefined} onClick={() => choose(occurrence)}>
        <span aria-hidden className="size-2.5 shrink-0 rounded-full border" style={{ borderColor: KIND_COLOURS[hit.kind], background: hit.state === 'found' ? 'transparent' : KIND_COLOURS[hit.kind] }} />
        <span className="mono text-[12px]">{timecode(frame, derived.line.rate)}</span>
        <span className="grow truncate">{kindName(hit.kind)}</span>
        <span aria-label={`strength ${Math.round(hit.strength * 100)}`} className="h-1.5 w-12 overflow-hidden rounded bg-plank"><span className="block h-full bg-fog" style={{ width: `${hit.strength * 100}%` }} /></span>
      </button>
      <button className={`key-quiet ${hit.state === 'kept' || hit.state === 'made' ? 'text-lamp' : ''}`} aria-label={`Keep the hit at frame ${frame}`} onClick={() => edit(decide(hit, hit.state === 'kept' ? 'found' : 'kept'))}><Keep size={14} /></button>
      <button className={`key-quiet ${hit.state === 'rejected' ? 'text-ember' : ''}`} aria-label={`Reject the hit at frame ${frame}`} onClick={() => edit(decide(hit, hit.state === 'rejected' ? 'found' : 'rejected'))}><X size={14} /></button>
    </li>
  );
}

/** The chosen hit: why it is there, its kind, and what to do with it. */
function Decision({ occurrence }: { occurrence: Occurrence }) {
  const { hit } = occurrence;
  const why = hit.evidence.map((e) => `${DETECTORS.find((d) => d.id === e.detector)?.name ?? e.detector} ${Math.round(e.strength * 100)}`).join(' + ');
  return (
    <div className="flex flex-col gap-2 rounded-md bg-plank p-2.5">
      <div className="flex items-center gap-2">
        <select className="field" aria-label="Kind of the chosen hit" value={hit.kind} disabled={hit.kind === 'join'} onChange={(event) => edit(setKind(hit, event.currentTarget.value as HitKind))}>
          {HIT_KINDS.filter((kind) => kind !== 'join' || hit.kind === 'join').map((kind) => <option key={kind} value={kind}>{kindName(kind)}</option>)}
        </select>
        <span className="min-w-0 grow truncate text-[12px] text-fog" title={why}>{why || (hit.kind === 'join' ? 'two clips meet' : 'set by hand')}</span>
      </div>
      <div className="grid grid-cols-4 gap-1.5">
        <button className="key justify-center" onClick={() => nudgeChosen(-1)} title="Alt ←" disabled={hit.kind === 'join'}>−1 f</button>
        <button className="key justify-center" onClick={() => nudgeChosen(1)} title="Alt →" disabled={hit.kind === 'join'}>+1 f</button>
        <button className="key justify-center" onClick={() => decideChosen('kept')} title="K">Keep</button>
        <button className="key justify-center" onClick={() => decideChosen('rejected')} title="R">Reject</button>
      </div>
    </div>
  );
}
