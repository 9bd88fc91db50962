import { describe, expect, it } from 'vitest';
import { analyseSound, bursts, noise, ofSound } from '../../testkit/signals.ts';
import { footage, twoClips } from '../../testkit/montages.ts';
import type { Montage, Source } from '../../document/types.ts';
import { whyNone } from './why.ts';

const track = { codec: 'opus', channels: 2, sampleRate: 48000, name: '', readable: true };
const heard = (change: Partial<Source> = {}): Montage => ({
  ...twoClips(),
  sources: [{ ...footage('one', 90), video: null, audio: [track], tracks: ['game'], ...change }],
});
const of = (samples: Float32Array) => ({ one: ofSound(analyseSound(samples)) });

describe('why nothing was found', () => {
  it('names the first thing that is missing', () => {
    expect(whyNone('shot', { ...twoClips(), sources: [] }, {})).toMatch(/bring in/);
    expect(whyNone('shot', heard(), {})).toMatch(/press Find hits/);
    const silent = of(noise(2, 0.0005));
    expect(whyNone('flash', heard(), silent)).toMatch(/has a picture/);
    expect(whyNone('shot', heard({ tracks: ['voice'] }), silent)).toMatch(/No track is listened to/);
    expect(whyNone('drop', heard(), silent)).toMatch(/No track holds music/);
    expect(whyNone('shot', heard(), silent)).toMatch(/silent/);
    expect(whyNone('mark', heard(), silent)).toBeNull();
  });

  it('says what was heard, and how likely it was this', () => {
    expect(whyNone('shot', heard(), of(noise(3, 0.2)))).toMatch(/No attack|attacks were heard|too faint/);
    const low = { ...heard(), sensitivity: { impact: 0, shot: 0, kick: 0, snare: 0, hat: 0, note: 0 } };
    const loud = of(bursts(4, [1, 2, 3]));
    const reasons = (['shot', 'impact', 'kick', 'snare', 'hat', 'note'] as const).map((kind) =>
      whyNone(kind, low, loud),
    );
    for (const why of reasons)
      expect(why).toMatch(
        /too faint for now: with the slider at 100 there are \d|none sounds like this: the likeliest at \d+ %/,
      );
    expect(reasons.some((why) => why!.includes('too faint'))).toBe(true);
  });
});
