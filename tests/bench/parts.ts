/** Runs in Chromium: what the bench times, on `window.bench`. */
import { BufferTarget, Mp4OutputFormat, Output, VideoSampleSink, VideoSampleSource } from 'mediabunny';
import { DEFAULT_ACCENT, DEFAULT_TITLE, type Montage } from '../../src/core/document/types.ts';
import { findHits } from '../../src/core/finding/detectors/index.ts';
import { SoundAnalyser } from '../../src/core/finding/signals/sound.ts';
import { silentMontage } from '../../src/core/testkit/montages.ts';
import { SIGNALS_VERSION } from '../../src/core/finding/signals/types.ts';
import { mono, soundBlocks, type SoundBlock } from '../../src/engine/media/sound.ts';
import { EFFECTS } from '../../src/effects/index.ts';
import { analyse } from '../../src/engine/analyse/analyse.ts';
import { exportMontage } from '../../src/engine/export/export.ts';
import { describeMedia, openMedia } from '../../src/engine/media/open.ts';
import { takeFrame } from '../../src/engine/media/yuv.ts';
import { FrameServer } from '../../src/engine/preview/frame-server.ts';
import { chooseRenderer, type RendererChoice } from '../../src/engine/render/choose.ts';

async function timed(work: () => unknown): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

/** The accent of five effects that speeds are stated for. */
const five = () =>
  ['punch', 'shake', 'flash', 'split', 'blocks'].map((id) => ({
    id,
    effect: id,
    version: 1,
    on: true,
    params: { ...EFFECTS.get(id)!.thumbnail },
  }));

/** A file as a montage, and what exports it on the processor, in milliseconds. */
async function exporting(url: string) {
  const about = await describeMedia({ url }, 'clip');
  const { width, height, count } = about.video!;
  const montage = silentMontage(about, width, height);
  const exported = (one: Montage): Promise<number> =>
    timed(() =>
      exportMontage(
        {
          montage: one,
          locations: new Map([['s', { url }]]),
          listed: {},
          options: { width, height, timing: montage.settings.timing, sound: 'none', renderer: 'cpu' },
        },
        new WritableStream(),
        () => undefined,
        undefined,
        () => new Worker('/draw.js', { type: 'module' }),
      ),
    );
  return { montage, count, exported };
}

/** Effects on all frames of a montage. */
function throughout(montage: Montage, effects: Montage['accents'][number]['effects']): Montage {
  const { rate } = montage.sources[0]!.video!;
  const accent = { ...DEFAULT_ACCENT, id: 'a', name: 'All', rate, lead: 0, tail: 24, seed: 1, effects };
  const bed = { id: 'b', accent: 'a', on: true, intensity: 1, seed: 1, above: true } as const;
  return { ...montage, accents: [accent], beds: [{ ...bed, lasts: 'repeat', stretch: { kind: 'all' } }] };
}

const bench = {
  /** The complete sound analysis of a decoded stereo file, all detectors; and with decoding. */
  async sound(url: string) {
    const about = await describeMedia({ url }, 'clip');
    const media = await openMedia({ url });
    const blocks: SoundBlock[] = [];
    for await (const block of soundBlocks(media, 0)) blocks.push(block);
    const source = { id: 's', role: 'music', tracks: [], delay: null } as const;
    const decoded = await timed(() => {
      const analyser = new SoundAnalyser(blocks[0]!.sampleRate);
      for (const block of blocks) analyser.push(mono(block));
      findHits(source, { version: SIGNALS_VERSION, sounds: { 0: analyser.finish() }, picture: null });
    });
    blocks.length = 0;
    const whole = await timed(async () => {
      const { signals } = await analyse(
        { url },
        { name: 'clip', tracks: [0], picture: false, duration: about.duration },
        { progress: () => undefined },
      );
      findHits(source, signals);
    });
    return { seconds: about.duration, decoded, whole };
  },

  async picture(url: string) {
    const about = await describeMedia({ url }, 'clip');
    const decoding = async (): Promise<void> => {
      const media = await openMedia({ url });
      for await (const sample of new VideoSampleSink(media.video!).samples()) sample.close();
    };
    const analysing = (): Promise<unknown> =>
      analyse(
        { url },
        { name: 'clip', tracks: [], picture: true, duration: about.duration },
        { progress: () => undefined },
      );
    // In turn, for the machine is now faster and now slower; the first round finds neither file nor code at hand.
    const rounds: { decode: number; analyse: number }[] = [];
    for (let round = 0; round < 8; round++)
      rounds.push({ decode: await timed(decoding), analyse: await timed(analysing) });
    const { decode, analyse: full } = rounds.slice(1).sort((a, b) => a.analyse / a.decode - b.analyse / b.decode)[3]!;
    const frames = about.video!.count;
    return { frames, seconds: about.duration, decode, analyse: full };
  },

  async exportPlain(url: string) {
    const about = await describeMedia({ url }, 'clip');
    const { width, height, rate, count } = about.video!;
    let frames = 0;
    const plain = await timed(async () => {
      const media = await openMedia({ url });
      const output = new Output({ format: new Mp4OutputFormat(), target: new BufferTarget() });
      const video = new VideoSampleSource({ codec: 'avc', bitrate: width * height * 30 * 0.14, keyFrameInterval: 2 });
      output.addVideoTrack(video);
      await output.start();
      for await (const sample of new VideoSampleSink(media.video!).samples()) {
        await video.add(sample);
        sample.close();
        frames++;
      }
      await output.finalize();
    });
    const montage = silentMontage(about, width, height, count / (rate.num / rate.den));
    const ours = await timed(() =>
      exportMontage(
        {
          montage,
          locations: new Map([['s', { url }]]),
          listed: {},
          options: { width, height, timing: montage.settings.timing, sound: 'none' },
        },
        new WritableStream(),
        () => undefined,
      ),
    );
    return { frames, plain, ours };
  },

  /** Milliseconds for a file as it is, and with five effects on all of its frames. */
  async exportTouched(url: string) {
    const { montage, count, exported } = await exporting(url);
    const plain = await exported(montage);
    const touched = await exported(throughout(montage, five()));
    return { frames: count, plain, touched };
  },

  /** Milliseconds for a file enlarged on all of its frames: all of it; behind a drawn subject; and with a title over it. */
  async exportLayers(url: string) {
    const { montage, exported } = await exporting(url);
    const one = throughout(montage, [{ id: 'p', effect: 'punch', version: 1, on: true, params: { zoom: 120 } }]);
    const points = [
      [0.3, 0.2],
      [0.7, 0.2],
      [0.6, 0.9],
      [0.4, 0.9],
    ].map(([x, y]) => ({ x: x!, y: y!, smooth: true }));
    const subject = { paths: [{ id: 's', does: 'adds' as const, keys: [{ t: 0, points }] }], grow: 0, soft: 0.01 };
    const two: Montage = {
      ...one,
      sources: one.sources.map((source) => ({ ...source, subject })),
      accents: one.accents.map((accent) => ({ ...accent, acts: 'behind' })),
    };
    const titled: Montage = { ...one, titles: [{ ...DEFAULT_TITLE, id: 't', text: 'Harbour Nights', over: 0 }] };
    const rounds: { one: number; two: number; titled: number }[] = [];
    // The first round has everything compiled.
    for (let round = 0; round < 4; round++)
      rounds.push({ one: await exported(one), two: await exported(two), titled: await exported(titled) });
    return rounds.slice(1);
  },

  /**
   * The loop around a hit with an accent of five effects, through the same door as the app: the first
   * round at each size, as it settles, and the second, which comes from kept frames.
   */
  async loop(url: string, choice: RendererChoice) {
    const about = await describeMedia({ url }, 'clip');
    const { rate, count } = about.video!;
    const montage = silentMontage(about, 1280, 720, count / (rate.num / rate.den));
    const effects = five();
    const frameServer = new FrameServer(choice);
    frameServer.attach(new OffscreenCanvas(16, 16));
    await frameServer.setMedia('s', { url });
    await frameServer.setMontage(montage, {});
    const results = [];
    for (const [width, height] of [
      [960, 540],
      [640, 360],
      [480, 270],
      [320, 180],
    ] as const) {
      // Another seed at each size, so that nothing is kept from before.
      const accent = { ...DEFAULT_ACCENT, id: 'five', name: 'Five', rate, lead: 2, tail: 24, seed: height, effects };
      const round = () =>
        timed(async () => {
          for (let frame = 38; frame <= 64; frame++)
            await frameServer.show(frame, {
              plain: false,
              width,
              height,
              audition: { accent, frame: 40, intensity: 1 },
              draft: true,
            });
          // Waits until all is really drawn.
          await frameServer.read(40, { plain: true, width: 16, height: 16 });
        });
      for (let frame = 38; frame <= 64; frame++) await frameServer.drawing(frameServer.planner.at(frame));
      const [first, second] = [await round(), await round()];
      results.push({ width, height, first: 27000 / first, second: 27000 / second });
    }
    await frameServer.close();
    return results;
  },

  /** Frames a second of one effect at 1280x720, without decoding. */
  async single(url: string, id: string, params: Record<string, number>, choice: RendererChoice) {
    const media = await openMedia({ url });
    const kept: Awaited<ReturnType<typeof takeFrame>>[] = [];
    for await (const sample of new VideoSampleSink(media.video!).samples(0, 0.3)) kept.push(await takeFrame(sample));
    const renderer = chooseRenderer(choice, null);
    const spec = EFFECTS.get(id)!;
    const uniforms = spec.resolve(
      { ...Object.fromEntries(Object.entries(spec.params).map(([n, p]) => [n, p.default])), ...params },
      { seed: 1, age: 1, lead: 2, tail: 8, fps: 30, summed: () => 0 },
    )!;
    const draw = (i: number): Promise<unknown> =>
      renderer.planes(
        {
          picture: { yuv: kept[i % kept.length]!, rotation: 0, aspect: 16 / 9, framed: { fit: 'fit' } },
          others: [],
          passes: [{ effect: id, uniforms }],
        },
        1280,
        720,
      );
    // Until the browser has compiled it well.
    for (let i = 0; i < 10; i++) await draw(i);
    const n = 30;
    return (
      (n * 1000) /
      (await timed(async () => {
        for (let i = 0; i < n; i++) await draw(i);
      }))
    );
  },
};

declare global {
  interface Window {
    bench: typeof bench;
  }
}
window.bench = bench;
