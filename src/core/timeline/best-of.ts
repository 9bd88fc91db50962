/** A montage of one recording made by rule alone: its strongest moments, and accents on their hits. */
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
 * @param hits of that recording
 * @param accents laid on all of them, in turn
 */
export function bestOf(source: Source, hits: readonly Hit[], accents: readonly Accent[], order: BestOf): Montage {
  const kept = hits.filter(({ kind }) => kind !== 'join' && kind !== 'beat' && kind !== 'cut');
  const begun = together([addSource(source, 'all'), decideAll(kept, 'kept')])(
    emptyMontage(`best-of-${source.fingerprint.slice(0, 16)}`, source.name.replace(/\.[^.]+$/, '')),
  );
  const { timing } = begun.settings;
  const { clips } = gather([source], kept, {
    before: order.before,
    after: order.after,
    order: 'time',
    most: null,
    longest: order.longest,
    beats: null,
    rate: timing.mode === 'constant' ? timing.rate : source.video!.rate,
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
