/** The signal around a hit with the line it had to cross, for showing why it is there. */
import { isBlow } from '../../document/hits.ts';
import type { Hit, Watch } from '../../document/types.ts';
import type { PictureSignals, SoundSignals } from '../signals/types.ts';
import type { WatchSignal } from '../watch/watch.ts';
import { appearThreshold, changeThreshold } from '../watch/watch.ts';
import { cutThreshold } from './cuts.ts';
import type { Sensitivity } from './detector.ts';
import { flashThreshold } from './flashes.ts';
import { joltThreshold } from './jolts.ts';
import { localProminence } from '../signals/local-prominence.ts';
import { onsetThreshold } from './onsets.ts';
import { strikeThreshold } from './strikes.ts';

export interface Trace {
  readonly name: string;
  /** Source seconds and values, as many of one as of the other. */
  readonly times: readonly number[];
  readonly values: readonly number[];
  readonly threshold: number;
}

/** Seconds to each side. */
const AROUND = 0.6;

const cut = (
  name: string,
  times: ArrayLike<number>,
  value: (i: number) => number,
  t: number,
  threshold: number,
): Trace => {
  const [own, values]: [number[], number[]] = [[], []];
  for (let i = 0; i < times.length; i++) {
    if (times[i]! < t - AROUND || times[i]! > t + AROUND) continue;
    own.push(times[i]!);
    values.push(value(i));
  }
  return { name, times: own, values, threshold };
};

/** Of the detector that gave the hit its first evidence; null where there is no such line. */
export function traceOf(
  hit: Hit,
  sounds: readonly SoundSignals[],
  picture: PictureSignals | null,
  watched: { readonly watch: Watch; readonly signal: WatchSignal } | null,
  sensitivity: Sensitivity,
): Trace | null {
  const first = hit.evidence[0];
  if (!first) return null;
  const { detector, t } = first;
  if (watched) {
    const { watch, signal } = watched;
    const threshold = (watch.mode === 'appears' ? appearThreshold : changeThreshold)(watch.sensitivity);
    return cut(
      watch.mode === 'appears' ? 'likeness to the example' : 'change in the rectangle',
      signal.times,
      (i) => signal.scores[i]! / 255,
      t,
      threshold,
    );
  }
  if (detector === 'onset') {
    // The track whose attack it is.
    const sound = sounds.find(({ attacks }) => attacks.includes(t)) ?? sounds[0];
    if (!sound) return null;
    const over = localProminence(sound.onset);
    const from = Math.max(0, Math.round((t - AROUND - sound.start) * sound.rate));
    const part = over.subarray(from, from + 2 * AROUND * sound.rate);
    const kinds = (Object.entries(hit.kinds ?? {}) as [Hit['kind'], number][]).sort((a, b) => b[1] - a[1]);
    const kind = kinds[0]?.[0] ?? hit.kind;
    return {
      name: 'new energy in the sound',
      times: [...part].map((_, i) => sound.start + (from + i) / sound.rate),
      values: [...part].map((v) => Math.max(0, v)),
      threshold: onsetThreshold(
        sensitivity(kind),
        kind,
        kinds.reduce((sum, [name, p]) => (isBlow({ kind: name }) ? sum + p : sum), 0),
      ),
    };
  }
  if (!picture) return null;
  if (detector === 'flash')
    return cut('rise of brightness', picture.times, (i) => picture.rise[i]!, t, flashThreshold(sensitivity('flash')));
  if (detector === 'jolt') {
    const far = (i: number): number =>
      Math.hypot(picture.shiftX[i]! - (picture.shiftX[i - 1] ?? 0), picture.shiftY[i]! - (picture.shiftY[i - 1] ?? 0));
    return cut('jump of the picture', picture.times, far, t, joltThreshold(sensitivity('jolt')));
  }
  if (detector === 'strike')
    return cut('local movement', picture.times, (i) => picture.motion[i]!, t, strikeThreshold(sensitivity('strike')));
  if (detector === 'cut')
    return cut('change of the picture', picture.times, (i) => picture.change[i]!, t, cutThreshold(sensitivity('cut')));
  return null;
}
