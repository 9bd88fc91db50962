/** Runs in Chromium: what the bench times, on `window.bench`. */
import { BufferTarget, Mp4OutputFormat, Output, VideoSampleSink, VideoSampleSource } from 'mediabunny';
import { emptyMontage, PLAIN_GRID, type Montage } from '../../src/core/montage/types.ts';
import { findHits } from '../../src/core/detectors/index.ts';
import { SoundAnalyser } from '../../src/core/signals/sound.ts';
import { SIGNALS_VERSION } from '../../src/core/signals/types.ts';
import { mono, soundBlocks, type SoundBlock } from '../../src/engine/media/sound.ts';
import { EFFECTS } from '../../src/effects/index.ts';
import { analyse } from '../../src/engine/analyse/analyse.ts';
import { exportMontage } from '../../src/engine/export/export.ts';
import { describeMedia, openMedia } from '../../src/engine/media/open.ts';
import { takeFrame } from '../../src/engine/media/yuv.ts';
import { Renderer } from '../../src/engine/render/renderer.ts';

async function timed(work: () => unknown): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

/** The accent of five effects that speeds are stated for. */
const FIVE = ['punch', 'shake', 'flash', 'split', 'blocks'];

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
      const { signals } = await analyse({ url }, { name: 'clip', tracks: [0], picture: false, duration: about.duration }, { progress: () => undefined });
      findHits(source, signals);
    });
    return { seconds: about.duration, decoded, whole };
  },

  async picture(url: string) {
    const about = await describeMedia({ url }, 'clip');
    let frames = 0;
    const decode = await timed(async () => {
      const media = await openMedia({ url });
      for await (const sample of new VideoSampleSink(media.video!).samples()) {
        sample.close();
        frames++;
      }
    });
    const full = await timed(() => analyse({ url }, { name: 'clip', tracks: [], picture: true, duration: about.duration }, { progress: () => undefined }));
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
    const montage: Montage = {
...emptyMontage('b', 'b'),
      settings: { ...emptyMontage('b', 'b').settings, width, height, timing: { mode: 'constant', rate } },
      sources: [{ id: 's', name: 'clip', role: 'footage', fingerprint: '', size: 0, duration: about.duration, video: about.video, audio: [], listen: null, tracks: [], delay: null, grid: PLAIN_GRID }],
      clips: [{ id: 'c', source: 's', in: 0, out: count / (rate.num / rate.den), fit: 'fit' }],
    };
    const ours = await timed(() => exportMontage(
      { montage, locations: new Map([['s', { url }]]), listed: {}, options: { width, height, timing: montage.settings.timing, sound: 'none' } },
      new WritableStream(), () => undefined));
    return { frames, plain, ours };
  },

  async preview(url: string) {
    const media = await openMedia({ url });
    const kept: Awaited<ReturnType<typeof takeFrame>>[] = [];
    for await (const sample of new VideoSampleSink(media.video!).samples(0, 1)) kept.push(await takeFrame(sample));
    const renderer = new Renderer(new OffscreenCanvas(16, 16));
    const results = [];
    for (const [width, height] of [[960, 540], [640, 360], [480, 270], [320, 180]] as const) {
      const draw = (i: number): void => {
        const passes = FIVE.map((id) => {
          const spec = EFFECTS.get(id)!;
          return { effect: id, uniforms: spec.resolve({ ...Object.fromEntries(Object.entries(spec.params).map(([n, p]) => [n, p.default])), ...spec.thumbnail }, { seed: i, age: 1, lead: 2, tail: 8, fps: 30, summed: () => i / 30 })! };
        });
        renderer.show({ drawing: { picture: { yuv: kept[i % kept.length]!, rotation: 0, aspect: 16 / 9, fit: 'fit' }, others: [], passes }, key: null }, width, height);
        // Waits until it is really drawn.
        const gl = renderer.canvas.getContext('webgl2')!;
        gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
      };
      draw(0);
      const n = 24;
      const ms = await timed(() => {
        for (let i = 0; i < n; i++) draw(i);
      });
      results.push({ width, height, fps: (n / ms) * 1000 });
    }
    return results;
  },
};

declare global {
  interface Window { bench: typeof bench }
}
window.bench = bench;

