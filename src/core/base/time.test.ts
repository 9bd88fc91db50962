import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  fps,
  framesFrom,
  STANDARD_RATES,
  frameToSeconds,
  nearestRate,
  secondsToFrame,
  secondsToFrameCeil,
  timecode,
  type Rate,
} from './time.ts';

const NTSC = { num: 30000, den: 1001 };

describe('rational time', () => {
  it('comes back to the same frame for every standard rate up to three hours', () => {
    fc.assert(
      fc.property(fc.constantFrom(...STANDARD_RATES), fc.integer({ min: 0, max: 3 * 3600 * 240 }), (rate, frame) => {
        const t = frameToSeconds(frame, rate);
        expect(secondsToFrame(t, rate)).toBe(frame);
        expect(secondsToFrameCeil(t, rate)).toBe(frame);
      }),
    );
  });

  it('does not drift: three hours at 30000/1001 are 323676 frames and 0.3236 s short of a whole count', () => {
    // 3 h * 3600 * 30000 / 1001 = 323676.32...
    expect(secondsToFrame(10800, NTSC)).toBe(323676);
    expect(frameToSeconds(323676, NTSC)).toBeCloseTo((323676 * 1001) / 30000, 9);
  });

  it('names the standard rate behind a measured one', () => {
    expect(nearestRate(29.97)).toEqual(NTSC);
    expect(nearestRate(59.9401)).toEqual({ num: 60000, den: 1001 });
    expect(nearestRate(23.976)).toEqual({ num: 24000, den: 1001 });
    expect(nearestRate(30)).toEqual({ num: 30, den: 1 });
    expect(nearestRate(27.3)).toEqual({ num: 27300, den: 1000 });
    expect(nearestRate(NaN)).toEqual({ num: 30, den: 1 });
    // What a damaged header claims is brought within what a document can hold.
    expect(nearestRate(5111838)).toEqual({ num: 1000, den: 1 });
    expect(nearestRate(1e-7)).toEqual({ num: 100, den: 1000 });
  });
});

describe('timecode, SMPTE ST 12-1 drop-frame counting', () => {
  // Worked values that follow from the standard's rule (frames 0 and 1 of each minute but the tenth are left out).
  it.each([
    [0, '00:00:00;00'],
    [1799, '00:00:59;29'],
    [1800, '00:01:00;02'],
    [3597, '00:01:59;29'],
    [3598, '00:02:00;02'],
    [17981, '00:09:59;29'],
    [17982, '00:10:00;00'],
    [107892, '01:00:00;00'],
  ])('frame %i at 29.97 is %s', (frame, text) => expect(timecode(frame, NTSC)).toBe(text));

  it('leaves out four numbers at 59.94', () => {
    expect(timecode(7, { num: 1, den: 10 })).toBe('00:01:10:00');
    expect(timecode(3, { num: 1, den: 20 })).toBe('00:01:00:00');
    expect(timecode(3599, { num: 60000, den: 1001 })).toBe('00:00:59;59');
    expect(timecode(3600, { num: 60000, den: 1001 })).toBe('00:01:00;04');
  });

  it('counts plainly at whole rates and at 23.976', () => {
    expect(timecode(1800, { num: 30, den: 1 })).toBe('00:01:00:00');
    expect(timecode(86400, { num: 24000, den: 1001 })).toBe('01:00:00:00');
  });
});

describe('what is typed as a time', () => {
  const [whole, drop]: Rate[] = [
    { num: 25, den: 1 },
    { num: 30000, den: 1001 },
  ];

  it('is frames, seconds or timecode', () => {
    expect(framesFrom('90', whole!)).toBe(90);
    expect(framesFrom(' 1.5 s', whole!)).toBe(38);
    expect(framesFrom('1,5s', whole!)).toBe(38);
    expect(framesFrom('1.4', whole!)).toBe(35);
    expect(framesFrom('00:00:01:15', whole!)).toBe(40);
    expect(framesFrom('1:02:03', whole!)).toBe(62 * 25 + 3);
    // The first minute at 29.97 ends with 00:00:59;29, the next number is 00:01:00;02 (SMPTE ST 12-1).
    expect(framesFrom('00:01:00;02', drop!)).toBe(1800);
    expect(framesFrom('00:10:00;00', drop!)).toBe(17982);
  });

  it('is none where it names no frame', () => {
    for (const text of ['', 'soon', '1:2', '00:61:00:00', '00:00:01:25', '1.2.3', '00:01:00;00', '1e9 s'])
      expect([text, framesFrom(text, text.includes(';') ? drop! : whole!)]).toEqual([text, null]);
    expect(framesFrom('00:01:00;02', whole!)).toBeNull();
  });

  it('is read back as it was written, at every rate', () => {
    for (const rate of STANDARD_RATES.filter((rate) => fps(rate) >= 1))
      for (const frame of [0, 1, 59, 1799, 1800, 17981, 17982, 107_891, 500_000])
        expect(framesFrom(timecode(frame, rate), rate)).toBe(frame);
  });
});
