import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readMontage, writeMontage } from '../document/akmeon.ts';
import type { Edit } from '../document/edits.ts';
import type { Montage } from '../document/types.ts';
import { footage, twoClips } from '../testkit/montages.ts';
import { musicEnd, musicLaidAt, musicSourceTime, musicTime } from './music.ts';
import {
  addClip,
  addMusic,
  boundsOf,
  changeMusic,
  moveJoin,
  placeClip,
  removeClip,
  removeMusic,
  slipClip,
  splitClip,
  splitMusic,
  trimClip,
} from './row.ts';
import { mediaIndex, timeline } from './timeline.ts';

const rows = ({ clips }: Montage) => clips.map((clip) => [clip.id, clip.in, clip.out]);
const tune = { ...footage('tune', 1), video: null, role: 'music' as const, duration: 20 };
const withTune: Montage = { ...twoClips(), sources: [...twoClips().sources, tune] };

describe('the row', () => {
  it('is cut, moved and trimmed; a clip is never shorter than a frame or longer than its source', () => {
    const m = splitClip('c1', 1.4, 'c1b')(twoClips());
    expect(rows(m)).toEqual([
      ['c1', 1, 1.4],
      ['c1b', 1.4, 2],
      ['c2', 0, 1],
    ]);
    expect(splitClip('c1', 2, 'x')(m)).toEqual(m);
    expect(rows(placeClip('c2', -9)(m)).map(([id]) => id)).toEqual(['c2', 'c1', 'c1b']);
    expect(rows(placeClip('c1', 1)(m)).map(([id]) => id)).toEqual(['c1b', 'c1', 'c2']);
    expect(rows(trimClip('c1', { out: 0.5 })(m))[0]).toEqual(['c1', 1, 1 + 1 / 30]);
    expect(rows(trimClip('c1', { in: 5 })(m))[0]).toEqual(['c1', 1.4 - 1 / 30, 1.4]);
    expect(rows(trimClip('c1', { in: -3, out: 99 })(m))[0]).toEqual(['c1', 0, 3]);
  });

  it('takes a source as often as wanted, whole or a stretch of it, where it is wanted', () => {
    const m = addClip('one', { in: 0.5, out: 0.9 }, 'again', 1)(twoClips());
    expect(rows(m)).toEqual([
      ['c1', 1, 2],
      ['again', 0.5, 0.9],
      ['c2', 0, 1],
    ]);
    expect(rows(addClip('one', { in: -1, out: 99 }, 'whole')(m)).at(-1)).toEqual(['whole', 0, 3]);
    expect(addClip('nothing', { in: 0, out: 1 }, 'x')(m)).toBe(m);
  });

  it('slips the content of a clip, and moves the join between two, as far as their sources go', () => {
    expect(rows(slipClip('c1', 0.5)(twoClips()))[0]).toEqual(['c1', 1.5, 2.5]);
    expect(rows(slipClip('c1', -9)(twoClips()))[0]).toEqual(['c1', 0, 1]);
    expect(rows(slipClip('c1', 9)(twoClips()))[0]).toEqual(['c1', 2, 3]);
    const moved = moveJoin('c2', 0.25)(twoClips());
    expect(rows(moved)).toEqual([
      ['c1', 1, 2.25],
      ['c2', 0.25, 1],
    ]);
    // The second has nothing before its beginning.
    expect(moveJoin('c2', -0.5)(twoClips())).toEqual(twoClips());
    expect(moveJoin('c1', 1)(twoClips())).toEqual(twoClips());
    expect(rows(moveJoin('c2', 9)(twoClips()))[1]![1]).toBeCloseTo(1 - 1 / 30, 9);
  });

  /** One edit after another, each on one of the clips that are there by then. */
  const STEPS: readonly ((m: Montage, id: string, a: number, b: number, made: string) => Edit)[] = [
    (_m, id, a) => trimClip(id, { in: a }),
    (_m, id, a) => trimClip(id, { out: a }),
    (_m, id, a, _b, made) => splitClip(id, a, made),
    (_m, id, a) => slipClip(id, a - 1.5),
    (_m, id, a) => moveJoin(id, a - 1.5),
    (_m, id, a) => placeClip(id, Math.round(2 * a)),
    (_m, _id, a, b, made) => addClip('one', { in: Math.min(a, b), out: Math.max(a, b) }, made),
    (m, id) => (m.clips.length > 1 ? removeClip(id) : (same: Montage) => same),
  ];
  const seconds = fc.double({ min: -1, max: 4, noNaN: true });
  const steps = fc.array(fc.record({ what: fc.nat(STEPS.length - 1), which: fc.nat(99), a: seconds, b: seconds }), {
    maxLength: 12,
  });

  it('keeps source time to montage time and back consistent through any sequence of edits', () => {
    fc.assert(
      fc.property(steps, fc.boolean(), (list, bySource) => {
        let m: Montage = bySource
          ? { ...twoClips(), settings: { ...twoClips().settings, timing: { mode: 'source' } } }
          : twoClips();
        list.forEach(({ what, which, a, b }, k) => {
          m = STEPS[what]!(m, m.clips[which % m.clips.length]!.id, a, b, `n${k}`)(m);
        });
        expect(readMontage(writeMontage(m)).clips).toEqual(m.clips);
        const media = mediaIndex(m.sources);
        const line = timeline(m, media);
        let first = 0;
        for (const span of line.spans) {
          const { from, to } = boundsOf(m.sources.find(({ id }) => id === span.clip.source)!);
          expect(span.clip.in).toBeGreaterThanOrEqual(from - 1e-9);
          expect(span.clip.out).toBeLessThanOrEqual(to + 1e-9);
          expect(span.clip.out - span.clip.in).toBeGreaterThan(1 / 30 - 1e-6);
          expect(span.first).toBe(first);
          expect(span.end).toBeGreaterThan(span.first);
          first = span.end;
          for (const share of [0, 0.3, 0.999]) {
            const seconds = line.timeOf(span.first) + share * (line.timeOf(span.end) - line.timeOf(span.first));
            const t = line.sourceTime(span, seconds);
            const [back, ...more] = line.momentsOf(span, t);
            expect(more).toEqual([]);
            expect(back).toBeCloseTo(seconds, 6);
          }
          expect(line.momentsOf(span, line.sourceTime(span, line.timeOf(span.end)) + 0.01)).toEqual([]);
        }
        expect(line.count).toBe(first);
      }),
      { numRuns: 150 },
    );
  });
});

describe('music', () => {
  const laid = addMusic('tune', 'a', 2)(withTune);

  it('lies where it is put, trimmed within its source, its fades no longer than it is', () => {
    expect(laid.music).toEqual([{ id: 'a', source: 'tune', at: 2, in: 0, out: 20, gain: 1 }]);
    expect(changeMusic('a', { at: -3, in: 5, out: 99, fadeIn: 30 })(laid).music[0]).toMatchObject({
      at: 0,
      in: 5,
      out: 20,
      fadeIn: 15,
    });
    expect(changeMusic('a', { in: 30 })(laid).music[0]!.in).toBeCloseTo(19.99, 9);
    expect(removeMusic('a')(laid).music).toEqual([]);
    expect(addMusic('nothing', 'b')(withTune)).toBe(withTune);
  });

  it('is cut without being heard otherwise', () => {
    const faded = changeMusic('a', { fadeIn: 1, fadeOut: 2 })(laid);
    const [one, other] = splitMusic('a', 9.5, 'b')(faded).music;
    expect([one, other]).toEqual([
      { id: 'a', source: 'tune', at: 2, in: 0, out: 7.5, gain: 1, fadeIn: 1 },
      { id: 'b', source: 'tune', at: 9.5, in: 7.5, out: 20, gain: 1, fadeOut: 2 },
    ]);
    expect(splitMusic('a', 1, 'b')(faded)).toEqual(faded);
  });

  it('has its time in the montage and back, and is laid with any of its moments anywhere', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 50, noNaN: true }),
        fc.double({ min: 0, max: 9, noNaN: true }),
        fc.double({ min: 10, max: 19, noNaN: true }),
        fc.double({ min: 0, max: 60, noNaN: true }),
        (at, from, out, seconds) => {
          const item = { at, in: from, out };
          const t = (from + out) / 2;
          expect(musicSourceTime(item, musicTime(item, t)!)).toBeCloseTo(t, 9);
          expect(musicTime(item, out)).toBeNull();
          expect(musicSourceTime(item, musicEnd(item) + 0.001)).toBeNull();
          const moved = musicLaidAt(item, t, seconds);
          expect(moved.at).toBeGreaterThanOrEqual(0);
          if (moved.in < t) expect(musicTime(moved, t)).toBeCloseTo(seconds, 9);
        },
      ),
    );
  });
});
