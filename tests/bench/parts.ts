/** Runs in Chromium: what the bench times, on `window.bench`. */
import { BufferTarget, Mp4OutputFormat, Output, VideoSampleSink, VideoSampleSource } from 'mediabunny';
import type { Montage } from '../../src/core/montage/types.ts';
import { SoundAnalyser } from '../../src/core/signals/sound.ts';
import { EFFECT_LIST } from '../../src/effects/index.ts';
import { analyse } from '../../src/engine/analyse/analyse.ts';
import { exportMontage } from '../../src/engine/export/export.ts';
import { describeMedia, openMedia } from '../../src/engine/media/open.ts';
import { takeFrame } from '../../src/engine/media/yuv.ts';
import { Renderer } from '../../src/engine/render/renderer.ts';
import { hash, signed } from '../../src/core/random/hash.ts';

async function timed(work: () => unknown): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

const bench = {
  async sound(_url: string, seconds: number) {
    const samples = new Float32Array(48000 * seconds).map((_, i) => signed(hash(i)) * Math.exp(-(i % 24000) / 3000));
    const ms = await timed(() => {
      const analyser = new SoundAnalyser(48000);
      for (let at = 0; at < samples.length; at += 4096) analyser.push(samples.subarray(at, at + 4096));
      analyser.finish();
    });
    return { seconds, ms };
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
    const full = await timed(() => analyse({ url }, { name: 'clip', track: null, picture: true, duration: about.duration }, () => undefined));
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
      format: 'akmeon', version: 1, id: 'b', name: 'b', settings: { width, height, timing: { mode: 'constant', rate }, clipGain: 1 },
      sources: [{ id: 's', name: 'clip', role: 'footage', fingerprint: '', size: 0, duration: about.duration, video: about.video, audio: [], listen: null }],
      clips: [{ id: 'c', source: 's', in: 0, out: count / (rate.num / rate.den), fit: 'fit' }], music: [], hits: [], accents: [], rules: [], overrides: {}, sensitivity: {},
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
        const passes = EFFECT_LIST.map((spec) => ({
          effect: spec.id,
          uniforms: spec.resolve({ ...Object.fromEntries(Object.entries(spec.params).map(([n, p]) => [n, p.default])), ...spec.thumbnail }, { seed: i, age: 1, lead: 2, tail: 8, fps: 30 })!,
        }));
        renderer.show({ yuv: kept[i % kept.length]!, rotation: 0, aspect: 16 / 9, fit: 'fit' }, passes, width, height);
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

