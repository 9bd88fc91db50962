import { hopOf, BARK_BANDS, POWER, type SoundSignals } from '../signals/types.ts';
import { beatGrid, hasBeat } from '../beats/track.ts';
import type { Detector, Find } from './detector.ts';

/** Bark bands up to 150 Hz, and from 2 kHz. */
const BASS_TO = 3;
const HIGH_FROM = 15;
/** Seconds compared before and after: two bars at 120. */
const SPAN = 4;
/** Seconds of music that must lead up to a drop. */
const BUILD = 6;
/** Hops of 100 ms. */
const STEP = 10;
const PER_SECOND = 10;

const sigmoid = (x: number): number => 1 / (1 + Math.exp(-x));
const decibels = (power: number): number => 10 * Math.log10(power + 1e-12);

/** Powers of bass, of highs and of all, ten a second. */
function powers({ bands, onset }: SoundSignals): { bass: Float64Array; high: Float64Array; full: Float64Array } {
  const n = Math.floor(onset.length / STEP);
  const [bass, high, full] = [new Float64Array(n), new Float64Array(n), new Float64Array(n)];
  for (let i = 0; i < n; i++) {
    for (let h = i * STEP; h < (i + 1) * STEP; h++) {
      for (let b = 0; b < BARK_BANDS; b++) {
        const power = POWER[bands[h * BARK_BANDS + b]!]!;
        full[i]! += power;
        if (b < BASS_TO) bass[i]! += power;
        else if (b >= HIGH_FROM) high[i]! += power;
      }
    }
  }
  return { bass, high, full };
}

const mean = (values: Float64Array, from: number, to: number): number => {
  let sum = 0;
  const [a, b] = [Math.max(0, from), Math.min(values.length, to)];
  for (let i = a; i < b; i++) sum += values[i]!;
  return sum / Math.max(1, b - a);
};

/** 0-1 for a drop at step `i`. */
function likely({ bass, high, full }: ReturnType<typeof powers>, loudest: number, i: number): number {
  const span = SPAN * PER_SECOND;
  if (i < BUILD * PER_SECOND || i + span / 2 > full.length) return 0;
  // A gap of silence right before belongs to the drop, not to what leads up to it.
  const before = decibels(mean(bass, i - span, i - 3));
  const halves = [mean(bass, i, i + span / 2), mean(bass, i + span / 2, i + span)].map(decibels);
  const rise = Math.min(halves[0]!, i + span <= full.length ? halves[1]! + 3 : halves[0]!) - before;
  const level = decibels(mean(full, i, i + span)) - loudest;
  const lead = decibels(mean(full, i - BUILD * PER_SECOND, i)) - loudest;
  // What builds up grows brighter; what merely enters does not.
  const build = decibels(mean(high, i - span, i - 2)) - decibels(mean(high, i - 2 * span, i - span));
  const fuller = decibels(mean(full, i, i + span)) - decibels(mean(full, i - span, i));
  return (
    sigmoid((rise - 11) / 2) *
    sigmoid((level + 4) / 1) *
    sigmoid((lead + 30) / 2) *
    sigmoid((build + 4) / 3) *
    sigmoid((fuller - 1) / 1.2)
  );
}

export const drops: Detector = {
  id: 'drop',
  version: 3,
  name: 'Drops',
  doc: 'A build-up ends and the whole band enters with its bass, and stays.',
  reference:
    'common practice, no source (rise of bass that lasts, loudness against the whole piece, brightening before)',
  kinds: ['drop'],
  musicOnly: true,
  find({ sound, grid }, sensitivity) {
    if (!sound) return [];
    // What has no beat has no drop.
    const { beats, downbeats } = grid ?? beatGrid(sound);
    if (grid ? !beats.length : !hasBeat(sound)) return [];
    const all = powers(sound);
    const span = SPAN * PER_SECOND;
    let loudest = -120;
    for (let i = 0; i + span <= all.full.length; i += 5)
      loudest = Math.max(loudest, decibels(mean(all.full, i, i + span)));
    // 0.8, 0.5 and 0.2 at sensitivity 0, 0.5 and 1.
    const threshold = 0.8 - 0.6 * sensitivity('drop');
    const scores = Float64Array.from(all.full, (_, i) => likely(all, loudest, i));
    const finds: Find[] = [];
    for (let i = 1; i < scores.length; i++) {
      const score = scores[i]!;
      if (score < threshold) continue;
      let top = true;
      for (let k = Math.max(0, i - span / 2); k < Math.min(scores.length, i + span / 2); k++)
        if (scores[k]! > score || (scores[k] === score && k < i)) top = false;
      if (top)
        finds.push({ t: entry(sound, scores, i, beats, downbeats), kind: 'drop', strength: score, confidence: score });
    }
    return finds;
  },
};

/** Share of the highest score from which a place is still as likely: means over seconds are nearly the same around a drop. */
const AS_LIKELY = 0.8;
/** Seconds past these places in which the attack may lie. */
const BESIDE = 0.4;

/** The attack at which the bass enters, near a step of highest score: there it was gone before and stays after; a beat or a bar's first beat rather than another. */
function entry(
  sound: SoundSignals,
  scores: Float64Array,
  step: number,
  beats: readonly number[],
  downbeats: readonly number[],
): number {
  const { attacks, bands, start, onset } = sound;
  let [from, to] = [step, step];
  while (from > 0 && scores[from - 1]! >= AS_LIKELY * scores[step]!) from--;
  while (to + 1 < scores.length && scores[to + 1]! >= AS_LIKELY * scores[step]!) to++;
  let best = start + step / PER_SECOND;
  let most = -Infinity;
  /** Mean bass between two hops, in decibels. */
  const level = (first: number, last: number): number => {
    let sum = 0;
    for (let h = first; h <= last; h++)
      for (let b = 0; b < BASS_TO; b++)
        sum += POWER[bands[Math.max(0, Math.min(onset.length - 1, h)) * BARK_BANDS + b]!]!;
    return decibels(sum / (last - first + 1));
  };
  for (const t of attacks) {
    if (t < start + from / PER_SECOND - BESIDE || t > start + to / PER_SECOND + BESIDE) continue;
    const hop = hopOf(sound, t);
    const near = (list: readonly number[]): boolean => list.some((b) => Math.abs(b - t) < 0.06);
    const value =
      level(hop + 3, hop + 20) -
      level(hop - 60, hop - 8) +
      onset[hop]! * 0.2 +
      (near(beats) ? 3 : 0) +
      (near(downbeats) ? 3 : 0);
    if (value > most) {
      most = value;
      best = t;
    }
  }
  return best;
}
