/** The chosen hit: why it is there, what it may be, and what to do with it. */
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { DETECTORS } from '../../core/finding/detectors/index.ts';
import { showsSign } from '../../core/document/hits.ts';
import { traceOf, type Trace } from '../../core/finding/detectors/trace.ts';
import { ranked } from '../../core/finding/hits/lessons.ts';
import { setKind } from '../../core/document/edits.ts';
import { HIT_KINDS, type Hit, type HitKind, type Montage } from '../../core/document/types.ts';
import { KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { decideChosen, nudgeChosen, seekLikeChosen } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { useMedia } from '../stores/media.ts';
import { FocusRow } from './focus.tsx';
import { edit } from '../stores/montage.ts';

const percent = (share: number): number => Math.round(share * 100);

export function Decision({ occurrence }: { occurrence: Occurrence }) {
  const { hit } = occurrence;
  const derived = useDerived()!;
  const { signals, watched } = useMedia();
  const kept = signals[hit.source];
  const watch = derived.montage.watches.find(({ id }) => showsSign(hit, id));
  const signal = watch && watched[hit.source]?.[watch.id];
  const trace =
    kept &&
    traceOf(
      hit,
      Object.values(kept.sounds),
      kept.picture,
      watch && signal ? { watch, signal } : null,
      (kind) => derived.montage.sensitivity[kind] ?? 0.5,
    );
  const { because } = ranked(hit, hit.state === 'found' ? derived.lessons : null);
  const kinds = (
    Object.entries(hit.kinds ?? (hit.state === 'found' ? { [hit.kind]: hit.confidence } : {})) as [HitKind, number][]
  )
    .sort((a, b) => b[1] - a[1])
    .slice(0, 4);
  return (
    <div className="flex shrink-0 flex-col gap-1.5 rounded-md bg-plank p-2.5" data-decision>
      <div className="flex items-center gap-2">
        <select
          className="field py-0.5"
          aria-label="Kind of the chosen hit"
          value={hit.kind}
          disabled={hit.kind === 'join'}
          onChange={(event) => edit(setKind(hit, event.currentTarget.value as HitKind))}
        >
          {HIT_KINDS.filter((kind) => kind !== 'join' || hit.kind === 'join').map((kind) => (
            <option key={kind} value={kind}>
              {kindName(kind)}
            </option>
          ))}
        </select>
        <span className="min-w-0 grow text-[12px] text-fog">{why(hit, derived.montage)}</span>
      </div>
      {kinds.length > 0 && (
        <div
          className="flex flex-wrap gap-x-3 text-[12px]"
          aria-label="What it may be"
          title="G takes the next likely one"
        >
          {kinds.map(([kind, p]) => (
            <span key={kind} className="flex items-center gap-1">
              <span
                aria-hidden
                className="size-2 rounded-full"
                style={{ background: KIND_COLOURS[kind], opacity: 0.3 + 0.7 * p }}
              />
              {kindName(kind)} {percent(p)} %
            </span>
          ))}
        </div>
      )}
      {trace && trace.values.length > 1 && (
        <Plot trace={trace} at={hit.evidence[0]!.t} colour={KIND_COLOURS[hit.kind]} />
      )}
      {because.length > 0 && (
        <p className="text-[12px] text-fog">
          {because
            .slice(0, 2)
            .map(
              ({ trait, kept, rejected, weight }) =>
                `${weight > 0 ? 'Raised' : 'Lowered'}: of those ${trait} you kept ${kept} and rejected ${rejected}.`,
            )
            .join(' ')}
        </p>
      )}
      {hit.kind !== 'join' && <FocusRow hit={hit} />}
      <div className="grid grid-cols-5 gap-1.5">
        <button
          className="key justify-center px-1"
          onClick={() => nudgeChosen(-1)}
          title="Alt ←"
          disabled={hit.kind === 'join'}
        >
          −1 f
        </button>
        <button
          className="key justify-center px-1"
          onClick={() => nudgeChosen(1)}
          title="Alt →"
          disabled={hit.kind === 'join'}
        >
          +1 f
        </button>
        <button className="key justify-center px-1" onClick={() => decideChosen('kept')} title="K">
          Keep
        </button>
        <button className="key justify-center px-1" onClick={() => decideChosen('rejected')} title="R">
          Reject
        </button>
        <button
          className="key justify-center px-1"
          onClick={seekLikeChosen}
          title="Find all sounds like this one (L)"
          disabled={hit.kind === 'join'}
        >
          Alike
        </button>
      </div>
    </div>
  );
}

/** Which signals, how strong. */
function why(hit: Hit, { watches, examples, families }: Pick<Montage, 'watches' | 'examples' | 'families'>): string {
  if (hit.kind === 'join') return 'two clips meet';
  if (!hit.evidence.length) return 'set by hand';
  const name = (detector: string): string => {
    const [what, id] = detector.split(':');
    if (what === 'like') return `like ${examples.find((e) => e.id === id)?.name ?? 'an example'}`;
    if (what === 'family') return `like ${families.find((f) => f.id === id)?.name || 'its family'}`;
    if (what === 'watch') return `${watches.find((w) => w.id === id)?.name ?? 'a watch'} seen`;
    return DETECTORS.find((d) => d.id === detector)?.name ?? detector;
  };
  return hit.evidence.map((e) => `${name(e.detector)} ${percent(e.strength)}`).join(' + ');
}

const WIDTH = 300;
const HEIGHT = 40;

/** One signal with the line that it had to cross. */
function Plot({ trace: { name, times, values, threshold }, at, colour }: { trace: Trace; at: number; colour: string }) {
  const [first, last] = [times[0]!, times.at(-1)!];
  const top = Math.max(threshold * 1.3, ...values) * 1.05;
  const x = (t: number): number => ((t - first) / Math.max(1e-6, last - first)) * WIDTH;
  const y = (value: number): number => HEIGHT - (value / top) * HEIGHT;
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full rounded bg-night"
        role="img"
        aria-label={`${name} around the hit, with its threshold`}
      >
        <line x1={x(at)} x2={x(at)} y1={0} y2={HEIGHT} stroke={colour} strokeOpacity={0.5} />
        <polyline
          fill="none"
          stroke="var(--color-fog)"
          strokeWidth={1.2}
          points={times.map((t, i) => `${x(t).toFixed(1)},${y(values[i]!).toFixed(1)}`).join(' ')}
        />
        <line
          x1={0}
          x2={WIDTH}
          y1={y(threshold)}
          y2={y(threshold)}
          stroke="var(--color-lamp)"
          strokeDasharray="4 3"
          data-threshold={threshold.toFixed(3)}
        />
      </svg>
      <figcaption className="text-[11px] text-fog">{name}, ±0.6 s; dashed: what counts</figcaption>
    </figure>
  );
}
