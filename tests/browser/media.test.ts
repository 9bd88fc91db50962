import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readFileSync } from 'node:fs';
import { at, fixture, startParts } from './harness.ts';

const LANTERN = 'lantern-drift.mp4';
/** The tag line's place, without the name that changes, in shares of the picture. */
const TAG_LINE = { x: (960 - 240) / 960, y: 28 / 540, w: 110 / 960, h: 34 / 540 };

let bench: Awaited<ReturnType<typeof startParts>>;
beforeAll(async () => {
  bench = await startParts();
});
afterAll(() => bench.close());

const describeFile = (path: string) => bench.page.evaluate((url) => window.parts.describe(url), bench.file(path));
const hits = (path: string, sensitivity: number | null = null) =>
  bench.page.evaluate(([url, s]) => window.parts.hits(url, s), [bench.file(path), sensitivity] as const);

describe('what a file holds', () => {
  it.each([
    ['hits.mp4', { rate: { num: 30, den: 1 }, count: 180, codec: 'avc', variable: false }],
    ['ntsc.mp4', { rate: { num: 30000, den: 1001 }, count: 60 }],
    ['odd.webm', { width: 853, height: 479, codec: 'vp9' }],
    ['rotated.mp4', { width: 180, height: 320 }],
    ['vp8.webm', { codec: 'vp8' }],
    ['one-frame.mp4', { count: 1 }],
    ['ten-bit.webm', { codec: 'vp9' }],
    ['three-hours.mkv', { count: 10800, rate: { num: 1, den: 1 } }],
  ])('%s', async (name, video) => {
    const reply = await describeFile(fixture(name));
    expect(reply).toMatchObject({ ok: true, about: { video } });
  });

  it('lists every sound track with its name', async () => {
    expect(await describeFile(fixture('two-tracks.mkv'))).toMatchObject({
      ok: true,
      about: {
        audio: [
          { name: 'Voice', codec: 'opus' },
          { name: 'Game', codec: 'opus' },
        ],
      },
    });
  });

  it('says what is odd in notes: late sound, no sound, no picture', async () => {
    const notes = async (name: string): Promise<string> => {
      const reply = await describeFile(fixture(name));
      return reply.ok ? reply.about.notes.join(' ') : reply.message;
    };
    expect(await notes('late-sound.mp4')).toMatch(/begins (0\.9|1\.0)\d s after/);
    expect(await notes('silent.mp4')).toContain('No sound');
    expect(await notes('sound-only.m4a')).toContain('No picture');
    expect(await notes('odd.webm')).toContain('853x479');
    expect(await notes('interlaced.mp4')).toContain('Interlaced');
    expect(await notes('hits.mp4')).not.toContain('Interlaced');
  });

  it.each([
    ['not a media file', at('package.json'), 'not-media', /not a video or sound file/],
    // One byte of its table of places is another: the library would count up to thousands of millions.
    ['a damaged index', fixture('damaged-index.m4a'), 'truncated', /index says more than it holds/],
    ['a truncated file without its index', fixture('no-moov.mp4'), 'truncated', /cut short/],
    ['an old codec', fixture('old-codec.mp4'), 'video-codec', /coded as .*cannot decode/],
    ['HDR footage', fixture('hdr.webm'), 'hdr', /HDR/],
    ['an MP4 with an index and no tracks', fixture('no-frames.mp4'), 'no-tracks', /neither picture nor sound/],
  ])('refuses %s, naming the reason', async (_, path, code, message) => {
    const reply = await describeFile(path);
    expect(reply).toMatchObject({ ok: false, code });
    expect(!reply.ok && reply.message).toMatch(message);
  });
});

describe('analysis of real files', () => {
  it('finds clicks within 5 ms and flashes to the frame through AAC and H.264, fused to one hit each', async () => {
    const { hits: found } = await hits(fixture('hits.mp4'));
    expect(found.map((h) => h.kind)).toEqual(Array(6).fill('flash'));
    found.forEach((h, i) => {
      expect(h.t).toBeCloseTo(0.5 + i, 4);
      expect(Math.abs(h.audioT! - (0.5 + i))).toBeLessThan(0.005);
    });
  });

  it.each(['flac', 'mp3', 'ogg', 'wav'])('finds the clicks of clicks.%s in place', async (ending) => {
    // Bare clicks are no sound of a game: they are asked for.
    const { hits: found } = await hits(fixture(`clicks.${ending}`), 1);
    expect(found).toHaveLength(2);
    // MP3 pre-echo smears an attack by up to a granule (13 ms at 44.1 kHz; common practice, no source).
    found.forEach((h, i) => expect(Math.abs(h.t - (0.5 + i))).toBeLessThan(ending === 'mp3' ? 0.013 : 0.005));
  });

  it('finds in a quiet recording what it finds in a loud one, as strong', async () => {
    const shots = async (path: string): Promise<{ t: number; strength: number }[]> =>
      (await hits(path)).hits.flatMap((h) =>
        h.evidence
          .filter((one) => one.detector === 'onset' && one.t < 4.9)
          .map(({ strength }) => ({ t: h.audioT!, strength })),
      );
    const [quiet, loud] = [await shots(fixture('quiet.m4a')), await shots(at('demo/lantern-drift.mp4'))];
    expect(loud).toHaveLength(4);
    expect(quiet).toHaveLength(4);
    quiet.forEach(({ t, strength }, i) => {
      expect(Math.abs(t - loud[i]!.t)).toBeLessThan(0.005);
      expect(Math.abs(strength - loud[i]!.strength)).toBeLessThan(0.01);
    });
  });

  it('keeps late sound in its place', async () => {
    const { hits: found } = await hits(fixture('late-sound.mp4'), 1);
    const times = found.filter((h) => h.audioT !== undefined).map((h) => h.audioT!);
    expect(times.some((t) => Math.abs(t - 1.5) < 0.01)).toBe(true);
  });

  it('reads a truncated file as far as it goes', async () => {
    const { hits: found, duration } = await hits(fixture('truncated.mp4'));
    expect(duration).toBeGreaterThan(1);
    expect(found).toEqual([]);
    // What could be read is as in a whole file: the frames before the cut are there.
    const { got } = await bench.page.evaluate(
      (url) => window.parts.frames(url, [0, 10, 20]),
      bench.file(fixture('truncated.mp4')),
    );
    expect(got.map(({ width, height }) => width * height > 0)).toEqual([true, true, true]);
  });

  it('goes on after an interruption as if there had been none', async () => {
    const { cut, frames, all, sound, picture } = await bench.page.evaluate(
      (url) => window.parts.resumed(url),
      bench.file(at('demo/lantern-drift.mp4')),
    );
    expect(cut).toBe(true);
    expect(frames).toBeGreaterThan(0);
    expect(frames).toBeLessThan(all);
    // Decoders fill noise-like bands by chance: the sound may differ by that much, in what was decoded again.
    expect(Math.max(...Object.values(picture))).toBe(0);
    expect(sound['onset']).toBeLessThan(0.05);
    expect(sound['bands']).toBeLessThan(0.1);
  });

  it('keeps signals in a third of their size, and they come back as they were', async () => {
    const { seconds, bytes, same } = await bench.page.evaluate(
      (url) => window.parts.packed(url),
      bench.file(at('demo/lantern-drift.mp4')),
    );
    expect(same).toBe(true);
    // 8 MB an hour.
    expect((bytes / seconds) * 3600).toBeLessThan(8e6);
  });

  it('watches a rectangle: the tag line of the demo appears to the frame', async () => {
    const { [LANTERN]: events } = JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<
      string,
      { t: number; frame: number; kind: string }[]
    >;
    const tags = events!.filter((event) => event.kind === 'popup');
    expect(tags.length).toBeGreaterThan(1);
    const found = await bench.page.evaluate(([url, region, t]) => window.parts.watched(url, region, t), [
      bench.file(at(`demo/${LANTERN}`)),
      TAG_LINE,
      tags[0]!.t + 0.3,
    ] as const);
    expect(found.map((f) => Math.round(f.t * 30))).toEqual(tags.map((tag) => tag.frame));
  });
});

describe('mixing', () => {
  const mix = (segments: { name: string; at: number; in: number; out: number; gain: number }[], seconds: number) =>
    bench.page.evaluate(([list, s]) => window.parts.mix(list, s), [
      segments.map(({ name, ...rest }) => ({ ...rest, track: 0, url: bench.file(fixture(name)) })),
      seconds,
    ] as const);

  it('plays each stretch in its place and loudness, seamlessly however it is read', async () => {
    // The WAV has clicks of 0.8 at 0.5 and 1.5 s.
    const { onsets, seam, same } = await mix([{ name: 'clicks.wav', at: 0.25, in: 0.4, out: 1.9, gain: 0.5 }], 2);
    expect(onsets.map(([t]) => t)).toHaveLength(2);
    [0.35, 1.35].forEach((t, i) => expect(Math.abs(onsets[i]![0] - t)).toBeLessThan(0.002));
    for (const [, level] of onsets) expect(Math.abs(level - 0.4)).toBeLessThan(0.03);
    expect(seam).toBeLessThan(1e-6);
    expect(same).toBe(true);
  });

  it('adds stretches up, and keeps AAC and MP3 in their place', async () => {
    const { onsets } = await mix(
      [
        { name: 'hits.mp4', at: 0, in: 0, out: 1, gain: 1 },
        { name: 'clicks.mp3', at: 1, in: 0, out: 1, gain: 1 },
      ],
      2,
    );
    [0.5, 1.5].forEach((t, i) => expect(Math.abs(onsets[i]![0] - t), `click ${i}`).toBeLessThan(0.01));
  });
});

describe('sound read on', () => {
  // Four seconds of a held chord at 44.1 kHz, made with ffmpeg's aevalsrc (three sines a side) and its own encoders.
  it.each(['chord.m4a', 'chord.mp3', 'chord.webm', 'chord.ogg', 'chord.flac'])(
    '%s is what one continuous decode gives: from the beginning, after a seek, and in pieces of a frame',
    async (name) => {
      const { on, seek, short } = await bench.page.evaluate(
        (url) => window.parts.continuity(url),
        bench.file(fixture(name)),
      );
      expect(on).toBeLessThan(-80);
      expect(short).toBeLessThan(-80);
      // AAC fills noise-like bands by chance, differently from wherever it is begun.
      expect(seek).toBeLessThan(name.endsWith('m4a') ? -60 : -80);
    },
  );

  it.each(['chord.m4a', 'chord.mp3', 'chord.webm', 'chord.ogg', 'chord.flac'])(
    'an export with %s as its music holds it within -40 dB everywhere',
    async (name) => {
      const { gain, worst } = await bench.page.evaluate(
        ([footage, music, sound]) => window.parts.exportedSound(footage, music, sound),
        [
          bench.file(fixture('numbered.mp4')),
          bench.file(fixture(name)),
          name.endsWith('webm') ? 'opus' : 'aac',
        ] as const,
      );
      expect(gain).toBeCloseTo(0.8, 2);
      expect(worst).toBeLessThan(-40);
    },
  );

  // Tones of 0.25 in one channel of six: ITU-R BS.775-3, Table 2, has the centre at -3 dB on both sides, surrounds at
  // -3 dB on theirs, and no low frequencies.
  it.each([
    ['surround-centre.m4a', 0.7071, 0.7071],
    ['surround-left.m4a', 0.7071, 0],
    ['surround-low.flac', 0, 0],
  ])('%s is mixed down to left and right', async (name, left, right) => {
    const levels = await bench.page.evaluate((url) => window.parts.downmixed(url, 0.9), bench.file(fixture(name)));
    const tone = 0.25 / Math.SQRT2;
    expect(Math.abs(levels[0]! / tone - left)).toBeLessThan(0.03);
    expect(Math.abs(levels[1]! / tone - right)).toBeLessThan(0.03);
  });
});
