/** Hits that were landed on the music are landed again when music, beats or clips have moved. */
import { landAgain } from '../../core/timeline/land.ts';
import { derivedNow, type Derived } from './derived.ts';
import { useMedia } from './media.ts';
import { useMontage } from './montage.ts';
import { musicTimes } from './row.ts';
import { notice, useView } from './view.ts';

/** Where beats and clips lay when hits were landed last. */
let lain = '';
const keyOf = ({ montage, line }: Derived, beats: readonly number[]): string =>
  JSON.stringify([montage.id, beats, line.spans.map(({ clip, first, end }) => [clip.id, clip.in, first, end])]);

let resting: ReturnType<typeof setTimeout> | undefined;

function followMusic(): void {
  const { montage, group, recorded, walked } = useMontage.getState();
  clearTimeout(resting);
  // In another shape hits may be others.
  if (!montage?.landing || recorded || useView.getState().format !== null) return;
  // In the middle of a gesture nothing jumps.
  const left = group ? group.until - performance.now() : 0;
  if (left > 0) {
    // What the pointer holds says itself when it ends.
    if (Number.isFinite(left)) resting = setTimeout(followMusic, left);
    return;
  }
  const { signals, partial } = useMedia.getState();
  if (!montage.music.every(({ source }) => signals[source] && !partial[source])) return;
  const derived = derivedNow()!;
  const beats = musicTimes(derived)[montage.landing.every];
  const now = keyOf(derived, beats);
  if (now === lain || !beats.length) return;
  lain = now;
  // Where undo and redo lead, hits lie as they lay there.
  if (walked) return;
  const again = landAgain(montage, derived.line, derived.everywhere, beats);
  if (!again) return;
  useMontage.getState().amend(again);
  lain = keyOf(derivedNow()!, beats);
  notice('Music or clips have moved: hits landed again.');
}

useMontage.subscribe((state, before) => {
  if (state.montage !== before.montage || state.group !== before.group) queueMicrotask(followMusic);
});
useMedia.subscribe((state, before) => {
  if (state.signals !== before.signals) queueMicrotask(followMusic);
});
