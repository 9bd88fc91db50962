/** Sounds and lane moves of accents, where these lie. */
import { evaluate } from '../accents/envelope.ts';
import type { PlacedAccent } from '../accents/placements.ts';
import { hash, seedOf, signed } from '../base/hash.ts';
import { LIMITS } from '../document/limits.ts';
import type { AccentSound, LaneMove, Montage, SoundAsset } from '../document/types.ts';
import type { Timeline } from '../timeline/timeline.ts';
import type { PlacedMove } from './lane-moves.ts';
import { make, madeSound } from './made/index.ts';
import type { SoundSegment } from './sound-plan.ts';

/** An accent that lies somewhere, with the frame of its hit. */
export interface Sounding {
  readonly placed: PlacedAccent;
  readonly hit: number;
  /** Lasts for all of its stretch. */
  readonly bed: boolean;
}

/** Seeds of a made sound that placements have: few enough that what was made is used again. */
const SEEDS = 16;
/** Seconds over which a sound that is cut goes out. */
const CUT = 0.02;

interface Body {
  readonly asset: SoundAsset;
  readonly seed: number;
  readonly duration: number;
  readonly peak: number;
}

function bodyOf(asset: SoundAsset, seed: number): Body | null {
  if (!('made' in asset)) return { asset, seed, duration: asset.duration, peak: Math.min(asset.peak, asset.duration) };
  if (!madeSound(asset.made)) return null;
  const { duration, peak } = make(asset.made, asset.params, seed);
  return { asset, seed, duration, peak };
}

/** Where a sound lies, montage seconds, and how much of it a second of the montage plays; null where nothing of it is heard. */
function segmentOf(
  sound: AccentSound,
  { asset, seed, duration, peak }: Body,
  sources: ReadonlyMap<string, Montage['sources'][number]>,
  { placed, hit }: Sounding,
  line: Timeline,
  draw: number,
  aspect: number,
): SoundSegment | null {
  const { accent, frame, from, to, fps, intensity } = placed;
  const timeOf = (at: number): number =>
    at >= 0 && at <= line.count ? line.timeOf(at) : at < 0 ? at / fps : line.duration + (at - line.count) / fps;
  const [start, end] = [timeOf(from), timeOf(to + 1)];
  const stretched = sound.length === 'stretched';
  const semitones = sound.semitones + signed(hash(draw, 1)) * sound.spreadPitch;
  // Stretched it keeps its pitch, and takes the semitones by themselves; else it is played faster or slower.
  const rate = stretched ? duration / Math.max(0.01, end - start) : 2 ** (semitones / 12);
  const length = duration / rate;
  const loudest = (sound.reversed ? duration - peak : peak) / rate;
  const moment = { begin: 0, peak: loudest, end: length }[sound.moment];
  const place = { hit: timeOf(hit), peak: timeOf(frame), start, end }[sound.place];
  const begins = stretched ? start : place + (sound.offset * accent.perFrame) / fps - moment;
  const cut = sound.length === 'cut' && end < begins + length;
  const ends = Math.min(line.duration, cut ? end : begins + length);
  const at = Math.max(0, begins);
  if (ends - at < 1e-4) return null;
  const late = at - begins;
  const plain = rate === 1 && !sound.reversed && semitones === 0;
  const source = 'made' in asset ? null : sources.get(asset.file);
  const decibels = signed(hash(draw, 2)) * sound.spreadGain;
  const strength = Math.max(0, 1 + sound.follow * (intensity - 1));
  const { gain } = sound;
  const level = (of: number): number => (of <= -96 ? 0 : 10 ** ((of + decibels) / 20) * strength);
  const first = timeOf(frame);
  const [x] = (sound.focus && placed.focus?.(0)) || [0];
  const side = Math.max(-1, Math.min(1, x / (aspect / 2)));
  return {
    lane: 'accents',
    source: source?.id ?? '',
    ...('made' in asset ? { made: { ...asset, seed } } : {}),
    ...('file' in asset && !source && { lost: asset.name }),
    track: 0,
    at,
    in: plain ? late : 0,
    out: plain ? late + ends - at : ends - at,
    gain: typeof gain === 'number' ? level(gain) : 1,
    ...(typeof gain !== 'number' && {
      curve: (seconds: number) => level(evaluate(gain, ((at + seconds - first) * fps) / accent.perFrame)),
    }),
    ...(side !== 0 && { side }),
    ...(sound.fadeIn > 0 && { fadeIn: Math.min(sound.fadeIn, ends - at) }),
    ...((sound.fadeOut > 0 || cut) && { fadeOut: Math.min(Math.max(sound.fadeOut, cut ? CUT : 0), ends - at) }),
    ...(!plain && {
      runs: (seconds: number) => (sound.reversed ? duration - (late + seconds) * rate : (late + seconds) * rate),
    }),
    ...(stretched && { pitch: 'kept' as const, semitones }),
  };
}

/** What accents sound like where they lie, in the order of the row. */
export function accentSegments(montage: Montage, line: Timeline, laid: readonly Sounding[]): SoundSegment[] {
  const sources = new Map(montage.sources.map((source) => [source.fingerprint, source]));
  const aspect = montage.settings.width / montage.settings.height;
  const { accentGain = 1 } = montage.settings;
  /** How often each sound was heard, for those that take turns. */
  const turns = new Map<string, number>();
  return [...laid]
    .filter(({ placed }) => placed.accent.accent.sounds?.length)
    .sort((a, b) => a.placed.frame - b.placed.frame)
    .flatMap((one) => {
      const { accent } = one.placed.accent;
      return accent.sounds!.flatMap((sound): SoundSegment[] => {
        if (!sound.on) return [];
        const key = `${accent.id} ${sound.id}`;
        const turn = turns.get(key) ?? 0;
        turns.set(key, turn + 1);
        const draw = hash(one.placed.seed, seedOf(sound.id));
        const chosen = (sound.pick === 'turn' ? turn : hash(draw, 4)) % sound.choices.length;
        // Alike where nothing is to differ, so that one that was made serves all.
        const differs = sound.spreadGain > 0 || sound.spreadPitch > 0;
        const body = bodyOf(sound.choices[chosen]!, differs ? hash(draw, 3) % SEEDS : 1);
        const segment = body && segmentOf(sound, body, sources, one, line, draw, aspect);
        return segment ? [{ ...segment, gain: segment.gain * accentGain }] : [];
      });
    });
}

/** A weaker placement takes less off; all else is the same for all. */
function amountOf({ change, amount }: LaneMove, intensity: number): number {
  if (change === 'lower') return amount * Math.min(1, intensity);
  if (change === 'echo') return Math.min(2000, Math.max(10, amount));
  if (change === 'room') return Math.min(10, Math.max(0.1, amount));
  return Math.max(LIMITS.cutoff.min, amount);
}

/** What accents do to the music and the sound of the clips where they lie. */
export function laneMoves(line: Timeline, laid: readonly Sounding[]): PlacedMove[] {
  return laid.flatMap(({ placed, hit, bed }) => {
    const { accent, perFrame } = placed.accent;
    const seconds = (frames: number): number => (frames * perFrame) / placed.fps;
    return (accent.lanes ?? []).flatMap((move): PlacedMove[] => {
      if (!move.on) return [];
      const from = line.timeOf(Math.min(line.count, Math.max(0, hit))) + seconds(move.begins);
      const hold = bed ? line.timeOf(placed.to + 1) - line.timeOf(placed.from) : seconds(move.hold);
      const lanes = move.lane === 'both' ? (['music', 'clips'] as const) : [move.lane];
      return lanes.map((lane) => ({
        lane,
        change: move.change,
        amount: amountOf(move, placed.intensity),
        adds: move.adds ?? false,
        from,
        attack: seconds(move.attack),
        hold,
        release: seconds(move.release),
      }));
    });
  });
}
