import { readFileSync } from 'node:fs';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LIMITS } from '../document/limits.ts';
import { HIT_KINDS } from '../document/types.ts';
import { fps, STANDARD_RATES } from '../base/time.ts';
import { MARKS_FORMATS, MarksError, plainFileName, readMarks, readRow, ROW_FORMATS, type Mark } from './index.ts';
import { describeFormats } from './describe.ts';
import { secondsIn } from './marks.ts';

const RATE = { num: 30, den: 1 };
const NTSC = { num: 30000, den: 1001 };
/** Megabytes that are held once what is not is let go. */
function memory(): number {
  setFlagsFromString('--expose-gc');
  (runInNewContext('gc') as () => void)();
  return process.memoryUsage().heapUsed / 2 ** 20;
}
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

  // AKMEON_MUTATIONS=1000000 looks for longer.
  const mutations = Number(process.env['AKMEON_MUTATIONS'] ?? 20_000);
  it('no mutated file brings an error that is not told, or takes long', { timeout: 60_000 + mutations * 5 }, () => {
    const marks: Mark[] = [
      { t: 1, kind: 'shot' },
      { t: 2.5, name: 'x' },
      { t: 9, end: 10 },
    ];
    const clips = [0, 1].map((i) => ({ name: `clip ${i}.mp4`, in: i, out: i + 2 }));
    const readers = [
      ...MARKS_FORMATS.map((one) => ({ read: one.read, text: one.write(marks, NTSC, 'M') })),
      ...ROW_FORMATS.map((one) => ({ read: one.read, text: one.write(clips, NTSC, 'R') })),
    ];
    let state = 7;
    const next = (most: number): number => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      return state % most;
    };
    const level = memory();
    for (let round = 0; round < mutations; round++) {
      const { read, text: whole } = readers[round % readers.length]!;
      const letters = [...whole];
      for (let n = 0; n <= next(4); n++) {
        const at = next(letters.length);
        if (next(3) === 0) letters.splice(at, next(20));
        else letters.splice(at, next(2), String.fromCharCode(next(3) ? 32 + next(95) : next(0xffff)));
      }
      const text = letters.join('');
      try {
        read(text, NTSC);
      } catch (error) {
        if (!(error instanceof MarksError)) throw new Error(`mutation ${round} of seed 7: ${text}`, { cause: error });
      }
    }
    expect(memory() - level).toBeLessThan(64);
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

describe('a decision list', () => {
  const list = [
    'TITLE: HARBOUR',
    'FCM: DROP FRAME',
    '',
    '001  RALLY    V     C        00:00:10;00 00:00:12;00 01:00:00;00 01:00:02;00',
    '* FROM CLIP NAME: rampart-rally.mp4',
    '002  DRIFT    AA/V  D    030 00:01:00;02 00:01:01;02 01:00:02;00 01:00:03;00',
    '* LOC: 01:00:02;15 RED     shot',
    '003  NOISE    A     C        00:00:00;00 00:00:01;00 01:00:00;00 01:00:01;00',
    '00X  BROKEN',
    '004  DRIFT    V     C        00:00:05;00 00:00:04;00 01:00:03;00 01:00:04;00',
  ].join('\n');

  it("gives its markers, from the record's own hour on, and says what it could not take over", () => {
    const { marks, left } = format('cmx3600').read(list, NTSC);
    expect(marks).toEqual([{ t: expect.closeTo(75 / fps(NTSC), 6) as number, kind: 'shot' }]);
    expect(left.map(({ line }) => line)).toEqual([6, 10]);
    const cuts = format('cmx3600').read(list.replace(/^\* LOC.*$/m, ''), NTSC).marks;
    expect(cuts).toMatchObject([{ kind: 'cut' }]);
    expect(cuts[0]!.t * fps(NTSC)).toBeCloseTo(60, 6);
    expect(() => format('cmx3600').read('nothing', NTSC)).toThrow(MarksError);
  });

  it('is a row of clips by file names, drop-frame counted, and gives back what it wrote', () => {
    const { clips } = readRow('a.edl', list, NTSC);
    expect(clips.map(({ name }) => name)).toEqual(['rampart-rally.mp4', 'DRIFT']);
    // The first minute has no frames 0 and 1: one-minute-two is frame 1800 of 29.97 a second (SMPTE ST 12-1).
    expect(clips[1]!.in * fps(NTSC)).toBeCloseTo(1800, 6);
    expect(plainFileName('/media/Rampart-Rally.MP4')).toBe(plainFileName('rampart-rally.mov'));
  });

  it.each(ROW_FORMATS.map(({ id }) => id))('rows of %s come back frame by frame at all usual rates', (id) => {
    const rows = ROW_FORMATS.find((one) => one.id === id)!;
    fc.assert(
      fc.property(
        fc.constantFrom(...STANDARD_RATES),
        fc.array(fc.tuple(fc.integer({ min: 0, max: 90_000 }), fc.integer({ min: 1, max: 900 })), {
          minLength: 1,
          maxLength: 9,
        }),
        (rate, list) => {
          const clips = list.map(([from, count], i) => ({
            name: `file ${i} ü.mp4`,
            in: from / fps(rate),
            out: (from + count) / fps(rate),
          }));
          const { clips: back, left } = rows.read(rows.write(clips, rate, 'A row'), rate);
          expect(left).toEqual([]);
          expect(back.map(({ name }) => name)).toEqual(clips.map(({ name }) => name));
          back.forEach((clip, i) => {
            expect(Math.abs(clip.in - clips[i]!.in)).toBeLessThan(0.5 / fps(rate));
            expect(Math.abs(clip.out - clips[i]!.out)).toBeLessThan(0.5 / fps(rate));
          });
        },
      ),
    );
  });

  it("a timeline's gaps, further tracks and clips without a stretch are said, Clip.2 is read", () => {
    const range = (from: number, count: number) => ({
      OTIO_SCHEMA: 'TimeRange.1',
      start_time: { OTIO_SCHEMA: 'RationalTime.1', value: from, rate: 24 },
      duration: { OTIO_SCHEMA: 'RationalTime.1', value: count, rate: 24 },
    });
    const track = (children: unknown[], kind = 'Video') => ({ OTIO_SCHEMA: 'Track.1', kind, children });
    const clip = {
      OTIO_SCHEMA: 'Clip.2',
      name: 'x',
      source_range: range(24, 48),
      active_media_reference_key: 'A',
      media_references: { A: { target_url: 'file:///m/a%20b.mp4' } },
    };
    const text = JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        children: [
          track([{ OTIO_SCHEMA: 'Gap.1', source_range: range(0, 5) }, clip, { OTIO_SCHEMA: 'Clip.1' }]),
          track([clip]),
          track([clip], 'Audio'),
        ],
      },
    });
    const { clips, left } = readRow('t.otio', text, RATE);
    expect(clips).toEqual([{ line: 2, name: 'file:///m/a b.mp4', in: 1, out: 3 }]);
    expect(left.map(({ why }) => why)).toEqual([
      'a gap',
      'a clip without a stretch',
      expect.stringMatching(/lies over/),
    ]);
    expect(() => readRow('t.xml', text, RATE)).toThrow(MarksError);
    expect(() => readRow('t.otio', '{"OTIO_SCHEMA":"Timeline.1"}', RATE)).toThrow(/no clip/);
  });
});

describe('files of bytes', () => {
  const bytes = (...list: (number | string)[]): string =>
    list.map((one) => (typeof one === 'string' ? one : String.fromCharCode(one))).join('');

  it('the example of the Standard MIDI Files specification (RP-001, appendix: format 0) is read note by note', () => {
    // 4/4, 120 a minute, 96 ticks a quarter: G at 96, C at 192 twice on others, as printed; running status throughout.
    const text = bytes(
      'MThd',
      0,
      0,
      0,
      6,
      0,
      0,
      0,
      1,
      0,
      96,
      'MTrk',
      0,
      0,
      0,
      0x3b,
      0,
      0xff,
      0x58,
      4,
      4,
      2,
      24,
      8,
      0,
      0xff,
      0x51,
      3,
      7,
      0xa1,
      0x20,
      0,
      0xc0,
      5,
      0,
      0xc1,
      0x2e,
      0,
      0xc2,
      0x46,
      0,
      0x92,
      0x30,
      0x60,
      0,
      0x3c,
      0x60,
      0x60,
      0x91,
      0x43,
      0x40,
      0x60,
      0x90,
      0x4c,
      0x20,
      0x81,
      0x40,
      0x82,
      0x30,
      0x40,
      0,
      0x3c,
      0x40,
      0,
      0x81,
      0x43,
      0x40,
      0,
      0x80,
      0x4c,
      0x40,
      0,
      0xff,
      0x2f,
      0,
    );
    const { marks, left } = format('midi').read(text, RATE);
    expect(left).toEqual([]);
    expect(marks.map(({ t }) => t)).toEqual([0, 0.5, 1]);
    expect(marks[1]).toEqual({ t: 0.5, name: 'note 67', strength: 64 / 127 });
  });

  it('a change of tempo moves what follows, frames a second count as they are, an end that is not said is', () => {
    const track = bytes(
      0,
      0xff,
      0x51,
      3,
      0x0f,
      0x42,
      0x40,
      96,
      0x90,
      60,
      100,
      0,
      0xff,
      0x51,
      3,
      7,
      0xa1,
      0x20,
      96,
      60,
      90,
    );
    const text = bytes('MThd', 0, 0, 0, 6, 0, 0, 0, 1, 0, 96, 'MTrk', 0, 0, 0, track.length, track);
    const { marks, left } = format('midi').read(text, RATE);
    expect(marks.map(({ t }) => t)).toEqual([1, 1.5]);
    expect(left).toEqual([{ line: 1, why: 'track 1: its end is not said' }]);
    // 25 frames a second, 40 ticks a frame: milliseconds.
    const smpte = bytes(
      'MThd',
      0,
      0,
      0,
      6,
      0,
      0,
      0,
      1,
      0xe7,
      40,
      'MTrk',
      0,
      0,
      0,
      9,
      0x87,
      0x68,
      0x90,
      60,
      1,
      0,
      0xff,
      0x2f,
      0,
    );
    expect(format('midi').read(smpte, RATE).marks[0]!.t).toBe(1);
  });

  it('cue points of a WAV file are read with labels and stretches, whatever lies before them', () => {
    const text = format('wave-cues').write(
      [
        { t: 1.5, end: 2, name: 'Molenhafen ü' },
        { t: 3, kind: 'shot' },
      ],
      RATE,
      '',
    );
    expect(format('wave-cues').read(text, RATE).marks).toEqual([
      { t: 1.5, end: 2, name: 'Molenhafen ü' },
      { t: 3, kind: 'shot' },
    ]);
    expect(() => format('wave-cues').read('RIFFxxxxAVI ', RATE)).toThrow(MarksError);
    expect(() => format('wave-cues').read(text.slice(0, 12), RATE)).toThrow(/samples a second/);
  });
});

it('docs/formats.md is what the declarations say', () => {
  expect(readFileSync(new URL('../../../docs/formats.md', import.meta.url), 'utf8')).toBe(describeFormats());
});

describe('hostile and very long files', () => {
  const LONG = 120_000;
  /** Runs that cost the square of their length where a reader looks back. */
  const runs = [' ', '\t', '<', '0', 'a', ',', '"', ':', 's ', ' s', '1 '].map((part) =>
    part.repeat(LONG / part.length),
  );
  const heads = [
    '',
    '1.5 ',
    '00:00:01:00 ',
    'WEBVTT\n\n0:01.000 --> 0:02.000\n',
    'WEBVTT\n\n0:01.000 ',
    'seconds,name\n1,',
  ];
  const edl = ['TITLE: x\n', '* FROM CLIP NAME: a', '* LOC: 01:00:00:00 ', '001  AX       V     C        '];

  it('are read, or refused in a sentence, in a time that grows with their length', () => {
    for (const format of MARKS_FORMATS)
      for (const head of format.id === 'cmx3600' ? [edl[0]!, ...edl.slice(1).map((line) => edl[0]! + line)] : heads)
        for (const run of runs)
          for (const tail of ['', 'x'])
            try {
              format.read(head + run + tail, RATE);
            } catch (error) {
              expect(error).toBeInstanceOf(MarksError);
            }
  });

  it('of two hundred thousand marks are written and read by each format', () => {
    const marks = Array.from({ length: 200_000 }, (_, i) => ({ t: i / 30, name: `m${i}` }));
    for (const format of MARKS_FORMATS) {
      const read = format.read(format.write(marks, RATE, 'Many'), RATE);
      expect(read.marks.length, format.id).toBe(Math.min(marks.length, LIMITS.hits));
    }
  });

  it('of millions of empty parts end with a sentence', () => {
    const little = (value: number): string => String.fromCharCode(value & 255, (value >> 8) & 255, value >> 16, 0);
    const big = (value: number): string => String.fromCharCode(0, value >> 16, (value >> 8) & 255, value & 255);
    const chunks = 'junk\0\0\0\0'.repeat(2_000_000);
    expect(() => readMarks('a.wav', `RIFF${little(chunks.length)}WAVE${chunks}`, RATE)).toThrow(/parts/);
    const events = '\0\xff\x06\0'.repeat(3_000_000);
    const file = `MThd${big(6)}\0\0\0\x01\0\x60MTrk${big(events.length)}${events}`;
    expect(format('midi').read(file, RATE).left).toEqual([
      { line: 1, why: 'track 1: it holds more than 1000000 events' },
    ]);
  });
});
