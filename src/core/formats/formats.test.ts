import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HIT_KINDS } from '../document/types.ts';
import { fps, STANDARD_RATES } from '../base/time.ts';
import { MARKS_FORMATS, MarksError, readMarks, type Mark } from './index.ts';
import { secondsIn } from './marks.ts';

const RATE = { num: 30, den: 1 };
const NTSC = { num: 30000, den: 1001 };
const format = (id: string) => MARKS_FORMATS.find((one) => one.id === id)!;

describe('every format of marks', () => {
  it.each(MARKS_FORMATS.map(({ id }) => id))('%s gives back what it wrote, at all usual rates', (id) => {
    fc.assert(
      fc.property(
        fc.constantFrom(...STANDARD_RATES),
        fc.array(
          fc.tuple(
            fc.integer({ min: 0, max: 400_000 }),
            fc.constantFrom(...HIT_KINDS),
            fc.integer({ min: 0, max: 1000 }),
          ),
          {
            minLength: 1,
            maxLength: 12,
          },
        ),
        (rate, list) => {
          const marks: Mark[] = list
            .map(([frame, kind, strength]) => ({ t: frame / fps(rate), kind, strength: strength / 1000 }))
            .sort((a, b) => a.t - b.t);
          const { marks: back, left } = format(id).read(format(id).write(marks, rate, 'A montage'), rate);
          expect(left).toEqual([]);
          expect(back).toHaveLength(marks.length);
          back.forEach((mark, i) => {
            expect(Math.abs(mark.t - marks[i]!.t)).toBeLessThan(0.5 / fps(rate));
            if (id !== 'plain' || mark.kind) expect(HIT_KINDS).toContain(mark.kind);
          });
        },
      ),
    );
  });

  it.each(MARKS_FORMATS.map(({ id }) => id))('%s bears names of any letters', (id) => {
    const marks: Mark[] = [{ t: 1, name: '=1+2, "Гавань"; <b>&amp;\t☂' }];
    const [back] = format(id).read(format(id).write(marks, RATE, ''), RATE).marks;
    expect(back!.t).toBeCloseTo(1, 9);
    expect(back!.name).toContain('Гавань');
  });

  it('no mutated file brings an error that is not told, or takes long', { timeout: 60_000 }, () => {
    const texts = MARKS_FORMATS.map((one) =>
      one.write(
        [
          { t: 1, kind: 'shot' },
          { t: 2.5, name: 'x' },
          { t: 9, end: 10 },
        ],
        NTSC,
        'M',
      ),
    );
    let state = 7;
    const next = (most: number): number => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      return state % most;
    };
    const began = performance.now();
    for (let round = 0; round < 5000; round++) {
      const which = round % texts.length;
      const letters = [...texts[which]!];
      for (let n = 0; n <= next(4); n++) {
        const at = next(letters.length);
        if (next(3) === 0) letters.splice(at, next(20));
        else letters.splice(at, next(2), String.fromCharCode(next(3) ? 32 + next(95) : next(0xffff)));
      }
      try {
        MARKS_FORMATS[which]!.read(letters.join(''), NTSC);
      } catch (error) {
        expect(error).toBeInstanceOf(MarksError);
      }
    }
    expect(performance.now() - began).toBeLessThan(30_000);
  });
});

describe('times', () => {
  it.each<[string, number | null]>([
    ['90', 90],
    ['1.5 s', 1.5],
    ['1,5', 1.5],
    ['1:02.5', 62.5],
    ['0:01:02,500', 62.5],
    ['00:00:01:15', 1.5],
    ['45f', 1.5],
    ['1:75', null],
    ['00:00:01:31', null],
    ['-3', null],
    ['noon', null],
    ['', null],
  ])('“%s” is %s', (text, wanted) => expect(secondsIn(text, RATE, 'seconds')).toBe(wanted));

  it('of drop-frame timecode are those of SMPTE ST 12-1: ten minutes are 17982 frames', () => {
    expect(secondsIn('00:10:00;00', NTSC, 'seconds')! * fps(NTSC)).toBeCloseTo(17982, 6);
    expect(secondsIn('00:01:00;00', NTSC, 'seconds')).toBeNull();
  });
});

describe('a table', () => {
  it('is read with semicolons, decimal commas, tabs, quotes, a byte-order mark, and columns in any order', () => {
    const read = (text: string) => format('csv').read(text, RATE).marks;
    expect(read('\uFEFFname;strength;time\n"a; b";50 %;1,25\n')).toEqual([{ t: 1.25, strength: 0.5, name: 'a; b' }]);
    expect(read('frame\tkind\n45\tshot\n')).toEqual([{ t: 1.5, kind: 'shot' }]);
    expect(read('1.5\n3\n')).toEqual([{ t: 1.5 }, { t: 3 }]);
    expect(read('in,out,label\n00:00:01:00,00:00:02:00,"two\nlines"\n')).toEqual([
      { t: 1, end: 2, name: 'two\nlines' },
    ]);
  });

  it('names the lines that it cannot take over, and refuses what has no times', () => {
    const { marks, left } = format('csv').read('time\n1\nnever\n-4\n99999999\n', RATE);
    expect(marks).toEqual([{ t: 1 }]);
    expect(left.map(({ line }) => line)).toEqual([3, 4, 5]);
    expect(() => format('csv').read('colour,size\nred,3\n', RATE)).toThrow(MarksError);
    expect(() => format('csv').read('', RATE)).toThrow(MarksError);
  });
});

describe('published examples', () => {
  it('a WebVTT file of the W3C specification (section 1.1, from memory) gives its cues', () => {
    const text = [
      'WEBVTT',
      '',
      '00:11.000 --> 00:13.000',
      '<v Roger Bingham>We are in New York City',
      '',
      'NOTE a remark',
      '',
      '2',
      '00:13.000 --> 00:16.000 position:10%,line-left align:left size:35%',
      'Up &amp; down',
      'the street',
      '',
    ].join('\r\n');
    expect(format('webvtt').read(text, RATE).marks).toEqual([
      { t: 11, end: 13, name: 'We are in New York City' },
      { t: 13, end: 16, name: 'Up & down the street' },
    ]);
    expect(() => format('webvtt').read('1\n00:00:01,000 --> 00:00:02,000\nSRT', RATE)).toThrow(/WEBVTT/);
  });

  it('OpenTimelineIO markers of clips lie where their clips do, transitions passed over', () => {
    const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 24, value });
    const range = (start: number, length: number) => ({
      OTIO_SCHEMA: 'TimeRange.1',
      start_time: time(start),
      duration: time(length),
    });
    const marker = (at: number, name: string) => ({
      OTIO_SCHEMA: 'Marker.2',
      name,
      marked_range: range(at, 0),
      metadata: {},
    });
    const text = JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        children: [
          {
            OTIO_SCHEMA: 'Track.1',
            children: [
              { OTIO_SCHEMA: 'Clip.2', source_range: range(48, 24), markers: [marker(60, 'shot')] },
              { OTIO_SCHEMA: 'Transition.1', in_offset: time(6), out_offset: time(6) },
              { OTIO_SCHEMA: 'Gap.1', source_range: range(0, 12) },
              {
                OTIO_SCHEMA: 'Clip.2',
                source_range: range(0, 24),
                markers: [marker(6, 'Goal'), { OTIO_SCHEMA: 'Marker.2' }],
              },
            ],
          },
        ],
      },
    });
    const { marks, left } = format('otio').read(text, RATE);
    expect(marks).toEqual([
      { t: 0.5, kind: 'shot' },
      { t: 1.5 + 0.25, name: 'Goal' },
    ]);
    expect(left).toEqual([{ line: 3, why: 'a marker without a time' }]);
    expect(() => format('otio').read('{}', RATE)).toThrow(MarksError);
  });
});

it('a file is read by its ending, and says so where it holds nothing', () => {
  expect(readMarks('beats.VTT', 'WEBVTT\n\n00:01.000 --> 00:02.000\nx\n', RATE).marks).toHaveLength(1);
  expect(readMarks('pasted', '# mine\n1.5 shot\n00:00:03:00 big one\n', RATE).marks).toEqual([
    { t: 1.5, kind: 'shot' },
    { t: 3, name: 'big one' },
  ]);
  expect(() => readMarks('x.txt', 'never\n', RATE)).toThrow(/line 1/);
  expect(() => readMarks('x.csv', 'time\n', RATE)).toThrow(MarksError);
});
