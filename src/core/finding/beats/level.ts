/**
 * Whether tracked beats are every second beat, or halves of beats. Common practice after M. Goto, "An audio-based
 * real-time beat tracking system for music with or without drum-sounds", J. New Music Research 30(2), 2001: bass drums
 * and snares fall on beats, a snare on every second one, and hats or notes between them.
 */
import { SOUND_CLASSES, type SoundSignals } from '../signals/types.ts';
import { lowerBound } from '../../base/search.ts';

const KINDS = SOUND_CLASSES.length;
const [KICK, SNARE, HAT, NOTE] = (['kick', 'snare', 'hat', 'note'] as const).map((name) =>
  SOUND_CLASSES.indexOf(name),
) as [number, number, number, number];

/** Beats that are needed to tell. */
const LEAST_BEATS = 8;
/** Beats a minute between which another level is taken: people tap hardly slower or faster. */
const SLOWEST_FELT = 62;
const FASTEST_FELT = 190;
/** Seconds that a stroke may lie beside its place. */
const BESIDE = 0.04;
/** Snares on so many of all beats, if anything lies between, or of all halves, fall on every second beat of twice the tempo. */
const SNARES = 0.75;
/** Bass drums and snares between the beats so many times as often as on them are on beats of twice the tempo. */
const AS_OFTEN = 0.8;
/** Share of beats with a bass drum or snare from which what lies between beats says anything. */
const SOME = 0.3;
/** Shares between which there are drums, but beats that are empty, too. */
const FEW = 0.2;
const MANY = 0.7;
/** Where less than this share of halves holds any stroke, nothing lies between. */
const NOTHING = 0.12;

/** How surely an attack is a bass drum or a snare. */
export const onBeat = ({ attackKinds }: Pick<SoundSignals, 'attackKinds'>, attack: number): number =>
  (attackKinds[attack * KINDS + KICK]! + attackKinds[attack * KINDS + SNARE]!) / 255;

/** What the beat's length is to be multiplied by: a half, one or two. */
export function levelOf(sound: SoundSignals, beats: readonly number[]): 0.5 | 1 | 2 {
  if (beats.length < LEAST_BEATS) return 1;
  const { attacks, attackKinds } = sound;
  const share = (times: readonly number[], of: (attack: number) => number): number =>
    times.reduce((sum, t) => {
      let most = 0;
      for (
        let i = lowerBound(attacks, t - BESIDE, (attack) => attack);
        i < attacks.length && attacks[i]! <= t + BESIDE;
        i++
      )
        most = Math.max(most, of(i));
      return sum + most;
    }, 0) / times.length;
  const drum = (i: number): number => onBeat(sound, i);
  const snare = (i: number): number => attackKinds[i * KINDS + SNARE]! / 255;
  const any = (i: number): number => drum(i) + (attackKinds[i * KINDS + HAT]! + attackKinds[i * KINDS + NOTE]!) / 255;
  const halves = beats.slice(1).map((t, i) => (t + beats[i]!) / 2);
  const everySecond = (from: number): number[] => beats.filter((_, i) => i % 2 === from);
  const bpm = (60 * (beats.length - 1)) / (beats.at(-1)! - beats[0]!);
  const drums = share(beats, drum);
  if (2 * bpm <= FASTEST_FELT) {
    const everywhere = Math.min(share(everySecond(0), snare), share(everySecond(1), snare));
    if ((everywhere >= SNARES && share(halves, any) > NOTHING) || share(halves, snare) >= SNARES) return 0.5;
    if (drums >= SOME && share(halves, drum) >= AS_OFTEN * drums) return 0.5;
  }
  if (bpm / 2 >= SLOWEST_FELT && drums >= FEW && drums <= MANY && share(halves, any) <= NOTHING) return 2;
  return 1;
}
