/** Why nothing of a kind was found, and what to try. */
import { isOfKind } from '../../document/hits.ts';
import type { HitKind, Montage } from '../../document/types.ts';
import { SOUND_CLASSES, type Signals } from '../signals/types.ts';
import { findHits, heard, isAnalysed, isOfMusic, PICTURE_DETECTORS, SOUND_DETECTORS } from './index.ts';

const kindsOf = (detectors: readonly { readonly kinds: readonly HitKind[] }[]): HitKind[] =>
  detectors.flatMap(({ kinds }) => kinds);
const HEARD = kindsOf(SOUND_DETECTORS);
const SEEN = kindsOf(PICTURE_DETECTORS);
const OF_MUSIC = kindsOf(SOUND_DETECTORS.filter(isOfMusic));

/** Value of `peaks` up to which a recording is as good as silent: no sample over -42 dB (common practice, no source). */
const SILENT = 1;

/** One or two sentences for the person; null where the kind is not looked for in sound or picture by itself. */
export function whyNone(
  kind: HitKind,
  { sources, sensitivity, settings }: Pick<Montage, 'sources' | 'sensitivity' | 'settings'>,
  signals: Readonly<Record<string, Signals>>,
): string | null {
  const [byEar, byEye] = [HEARD.includes(kind), SEEN.includes(kind)];
  if (!byEar && !byEye) return null;
  const moving = sources.filter(({ still }) => !still);
  if (!moving.length) return 'There is no source yet: bring in footage or music.';
  const searched = moving.filter((source) => isAnalysed(source, signals[source.id]));
  if (!searched.length) return 'Nothing was searched yet: press Find hits.';
  if (byEye && !searched.some(({ video }) => video)) return 'No source that was searched has a picture.';
  const sounds = searched
    .flatMap((source) => heard(source, signals[source.id]!))
    .filter(({ role }) => role !== 'off' && role !== 'voice');
  if (byEar) {
    if (!sounds.length)
      return (
        'No track is listened to: each is off, a voice, or in a codec that cannot be read. ' +
        'Say what tracks hold at Bring in.'
      );
    if (OF_MUSIC.includes(kind) && !sounds.some(({ role }) => role === 'music'))
      return 'No track holds music: say which one does at Bring in.';
    if (sounds.every(({ sound }) => sound.peaks.every((peak) => peak <= SILENT)))
      return 'The sound is as good as silent: no sample of it is over -42 dB.';
  }
  const most = searched.reduce(
    (sum, source) =>
      sum +
      findHits(source, signals[source.id]!, {
        sensitivity: { ...sensitivity, [kind]: 1 },
        fusionWindow: settings.fusionWindow,
      }).hits.filter((hit) => isOfKind(hit, kind)).length,
    0,
  );
  if (most > 0) return `All are too faint for now: with the slider at 100 there are ${most}. Move it to the right.`;
  const at = (SOUND_CLASSES as readonly string[]).indexOf(kind);
  if (at >= 0) {
    const attacks = sounds.reduce((sum, { sound }) => sum + sound.attacks.length, 0);
    const likeliest = Math.max(
      0,
      ...sounds.map(({ sound: { attackKinds } }) =>
        attackKinds.reduce((top, p, i) => (i % SOUND_CLASSES.length === at ? Math.max(top, p) : top), 0),
      ),
    );
    const percent = Math.round((likeliest / 255) * 100);
    return attacks
      ? `${attacks} attacks were heard, and none sounds like this: the likeliest at ${percent} %. ` +
          'Mark one as an example at Seek, or say at Bring in what the recording holds.'
      : 'No attack was heard: the sound has no sudden beginnings. Marks can be set by hand with M.';
  }
  return byEar
    ? 'The music has none that repeats clearly enough. Tap the beat below, or set marks by hand with M.'
    : 'The picture never changes in this way. Watch an area of it at Seek, or set marks by hand with M.';
}
