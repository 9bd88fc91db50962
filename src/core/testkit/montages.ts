/** Small made-up montages for tests. */
import {
  emptyMontage,
  DEFAULT_ACCENT,
  DEFAULT_GRID,
  DEFAULT_RULE,
  type Accent,
  type Hit,
  type Montage,
  type Rule,
  type Source,
} from '../document/types.ts';
import type { Rate } from '../base/time.ts';

export const FPS30: Rate = { num: 30, den: 1 };

export function footage(id: string, frames: number, rate: Rate = FPS30): Source {
  return {
    id,
    name: `${id}.mp4`,
    role: 'footage',
    fingerprint: 'a'.repeat(64),
    size: 1000,
    duration: (frames * rate.den) / rate.num,
    video: { width: 320, height: 180, rotation: 0, codec: 'avc', rate, count: frames, first: 0, variable: false },
    audio: [{ codec: 'aac', channels: 2, sampleRate: 48000, name: '', readable: true }],
    listen: 0,
    tracks: ['game'],
    delay: null,
    grid: DEFAULT_GRID,
    content: 'unsaid',
  };
}

/** A montage `s` of one clip `c`: a whole file, described as in `about`, without its sound, at the file's own rate. */
export function silentMontage(
  about: Pick<Source, 'duration' | 'video'>,
  width: number,
  height: number,
  out = about.duration,
): Montage {
  const plain = emptyMontage('m', 'One file');
  const { duration, video } = about;
  const source = { ...footage('s', 0), fingerprint: '', size: 0, duration, video, audio: [], listen: null, tracks: [] };
  return {
    ...plain,
    settings: { ...plain.settings, width, height, timing: { mode: 'constant', rate: video!.rate } },
    sources: [source],
    clips: [{ id: 'c', source: 's', in: 0, out, fit: 'fit' }],
  };
}

export const hit = (id: string, source: string, t: number, change: Partial<Hit> = {}): Hit => ({
  id,
  source,
  t,
  kind: 'shot',
  strength: 0.5,
  confidence: 1,
  evidence: [{ detector: 'onset', t, strength: 0.5 }],
  state: 'kept',
  ...change,
});

export const punchAccent = (id = 'a', rate: Rate = FPS30): Accent => ({
  ...DEFAULT_ACCENT,
  id,
  name: 'Test punch',
  rate,
  lead: 2,
  tail: 6,
  seed: 1,
  effects: [
    {
      id: 'e1',
      effect: 'punch',
      version: 1,
      on: true,
      params: {
        zoom: [
          { at: -2, value: 100, ease: 'linear' },
          { at: 0, value: 140, ease: 'linear' },
          { at: 6, value: 100, ease: 'linear' },
        ],
      },
    },
  ],
});

/** Two clips from two sources, each a second long, at 30 frames a second. */
export const twoClips = (): Montage => ({
  ...emptyMontage('m', 'Test'),
  sources: [footage('one', 90), footage('two', 90)],
  clips: [
    { id: 'c1', source: 'one', in: 1, out: 2, fit: 'fit' },
    { id: 'c2', source: 'two', in: 0, out: 1, fit: 'fit' },
  ],
});

export const shotRule = (change: Partial<Rule> = {}): Rule => ({
  ...DEFAULT_RULE,
  id: 'r',
  accents: [{ accent: 'a', weight: 1 }],
  kinds: ['shot'],
  seed: 1,
  ...change,
});
