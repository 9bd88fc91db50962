/** A montage of recordings made by rule alone: their strongest moments, and accents on their hits. */
import { seedOf } from '../base/hash.ts';
import { addRule, addSource, decideAll, together } from '../document/edits.ts';
import { DEFAULT_RULE, emptyMontage, type Accent, type Hit, type Montage, type Source } from '../document/types.ts';
import { gather, setGathered } from './gather.ts';

export interface BestOf {
  /** Seconds of the recording before and after each hit. */
  readonly before: number;
  readonly after: number;
  /** Most seconds of the montage; null: all of its moments. */
  readonly longest: number | null;
}

/**
 * The same input gives the same montage to the letter, so that work done twice is known to be.
 * @param recordings with the hits found in them; their moments come in the order of the recordings
 * @param accents laid on all of them, in turn
 */
export function bestOf(
  name: string,
  recordings: readonly { readonly source: Source; readonly hits: readonly Hit[] }[],
  accents: readonly Accent[],
  order: BestOf,
): Montage {
  const sources = recordings.map(({ source }) => source);
  const kept = recordings
    .flatMap(({ hits }) => hits)
    .filter(({ kind }) => kind !== 'join' && kind !== 'beat' && kind !== 'cut');
  const id = sources.length === 1 ? sources[0]!.fingerprint : hashed(sources.map(({ fingerprint }) => fingerprint));
  const begun = together([...sources.map((source, i) => addSource(source, `all-${i + 1}`)), decideAll(kept, 'kept')])(
    emptyMontage(`best-of-${id.slice(0, 16)}`, name.replace(/\.[^.]+$/, '')),
  );
  const { timing } = begun.settings;
  const { clips } = gather(sources, kept, {
    before: order.before,
    after: order.after,
    order: 'time',
    most: null,
    longest: order.longest,
    beats: null,
    rate: timing.mode === 'constant' ? timing.rate : sources[0]!.video!.rate,
  });
  let next = 0;
  const row = setGathered(clips, () => `clip-${++next}`)({ ...begun, accents: [...accents] });
  const kinds = [...new Set(kept.map(({ kind }) => kind))];
  return accents.length
    ? addRule({
        ...DEFAULT_RULE,
        id: 'all-hits',
        accents: accents.map(({ id }) => ({ accent: id, weight: 1 })),
        kinds,
        seed: 1,
      })(row)
    : row;
}

const hashed = (prints: readonly string[]): string => seedOf(prints.join(' ')).toString(16).padStart(8, '0');
