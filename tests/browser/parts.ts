/** Runs in Chromium: the engine's parts on `window.parts`, so that tests can ask for numbers. */
import type { Pass } from '../../src/core/plan/plan.ts';
import { toLinear, yuvToRgb, fromLinear, type YuvColour } from '../../src/core/media/colour.ts';
import { composeReference, pictureImage } from '../../src/effects/compose.ts';
import { EFFECTS } from '../../src/effects/index.ts';
import { FrameReader } from '../../src/engine/media/frames.ts';
import { describeMedia, openMedia } from '../../src/engine/media/open.ts';
import { mono, soundBlocks } from '../../src/engine/media/sound.ts';
import { Mixer } from '../../src/engine/media/mixer.ts';
import { openFrames, takeFrame, type YuvFrame } from '../../src/engine/media/yuv.ts';
import { listedTimes, regularTimes } from '../../src/core/media/frame-times.ts';
import { Renderer, type Picture } from '../../src/engine/render/renderer.ts';
import { HIT_KINDS, type Region } from '../../src/core/montage/types.ts';
import type { Signals } from '../../src/core/signals/types.ts';
import { appearances, changes } from '../../src/core/watch/watch.ts';
import { analyse, type Checkpoint } from '../../src/engine/analyse/analyse.ts';
import { takeExample, watch } from '../../src/engine/analyse/watch.ts';
import { pack, unpack } from '../../src/engine/storage/pack.ts';
import { beatGrid, hasBeat } from '../../src/core/beats/track.ts';
import { findHits } from '../../src/core/detectors/index.ts';
import { VideoSampleSink } from 'mediabunny';

/** A test card: gradients, fine lines, a disc and flat fields in neutral and strong colours. */
function cardYuv(width: number, height: number, colour: YuvColour): YuvFrame {
  const cw = width >> 1;
  const data = new Uint8Array(width * height + 2 * cw * (height >> 1));
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) {
    const disc = Math.hypot(x - width * 0.6, y - height * 0.4) < height * 0.2;
    const lines = y > height * 0.7 && x < width * 0.4;
    data[y * width + x] = disc ? 210 : lines ? ((x >> 2) & 1 ? 200 : 50) : 40 + (150 * x) / width;
  }
  for (let y = 0; y < height >> 1; y++) for (let x = 0; x < cw; x++) {
    const i = width * height + y * cw + x;
    data[i] = 128 + 60 * Math.sin((x / cw) * 6);
    data[i + cw * (height >> 1)] = 128 + 60 * Math.cos((y / (height >> 1)) * 5);
  }
  return { width, height, data, colour };
}

const picture = (yuv: YuvFrame): Picture => ({ yuv, rotation: 0, aspect: yuv.width / yuv.height, fit: 'fit' });

let renderer: Renderer | null = null;
const draw = (): Renderer => (renderer ??= new Renderer(new OffscreenCanvas(16, 16)));

/** Chroma as the renderer reads it: left-sited, bilinear. */
function chromaAt(yuv: YuvFrame, plane: 0 | 1, x: number, y: number): number {
  const cw = (yuv.width + 1) >> 1, ch = (yuv.height + 1) >> 1;
  const from = yuv.width * yuv.height + plane * cw * ch;
  const sx = Math.min(cw - 1, Math.max(0, (x + 0.5) / 2 + 0.25 - 0.5));
  const sy = Math.min(ch - 1, Math.max(0, (y + 0.5) / 2 - 0.5));
  const x0 = Math.floor(sx), y0 = Math.floor(sy);
  const x1 = Math.min(cw - 1, x0 + 1), y1 = Math.min(ch - 1, y0 + 1);
  const at = (i: number, j: number): number => yuv.data[from + j * cw + i]!;
  const fx = sx - x0, fy = sy - y0;
  return (at(x0, y0) * (1 - fx) + at(x1, y0) * fx) * (1 - fy) + (at(x0, y1) * (1 - fx) + at(x1, y1) * fx) * fy;
}

/** The same picture developed on the CPU: linear RGBA. */
function developed(yuv: YuvFrame): Float64Array {
  const out = new Float64Array(yuv.width * yuv.height * 4);
  for (let y = 0; y < yuv.height; y++) for (let x = 0; x < yuv.width; x++) {
    const rgb = yuvToRgb(yuv.data[y * yuv.width + x]!, chromaAt(yuv, 0, x, y), chromaAt(yuv, 1, x, y), yuv.colour);
    const i = (y * yuv.width + x) * 4;
    rgb.forEach((v, c) => (out[i + c] = toLinear(Math.min(1, Math.max(0, v)))));
    out[i + 3] = 1;
  }
  return out;
}

function difference(a: ArrayLike<number>, b: ArrayLike<number>): { mean: number; p999: number; max: number } {
  const gaps: number[] = [];
  for (let i = 0; i < a.length; i++) if (i % 4 !== 3) gaps.push(Math.abs(a[i]! - b[i]!));
  gaps.sort((x, y) => x - y);
  return { mean: gaps.reduce((s, v) => s + v, 0) / gaps.length, p999: gaps[Math.floor(gaps.length * 0.999)]!, max: gaps.at(-1)! };
}

const parts = {
  /** GPU against CPU reference for a stack on the test card, in steps of 1/255. */
  compare(passes: Pass[], width = 192, height = 108) {
    const yuv = cardYuv(width, height, { matrix: 'bt709', fullRange: false });
    const gpu = draw().read(picture(yuv), passes, width, height);
    const image = composeReference(passes, pictureImage(developed(yuv), width, height));
    const cpu = new Float64Array(gpu.length);
    const pixel = new Float64Array(4);
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) {
      image((x + 0.5 - width / 2) / height, (y + 0.5 - height / 2) / height, pixel);
      for (let c = 0; c < 3; c++) cpu[(y * width + x) * 4 + c] = 255 * Math.min(1, Math.max(0, fromLinear(pixel[c]!)));
    }
    return difference(gpu, cpu);
  },

  /** An untouched frame after the round trip through the renderer, against plain conversion. */
  roundTrip(colour: YuvColour) {
    const yuv = cardYuv(192, 108, colour);
    const gpu = draw().read(picture(yuv), [], 192, 108);
    const cpu = Float64Array.from(developed(yuv), (v, i) => (i % 4 === 3 ? 255 : 255 * fromLinear(v)));
    return difference(gpu, cpu);
  },

  resolve: (effect: string, params: Record<string, number>, seed = 7, age = 1) => {
    const spec = EFFECTS.get(effect)!;
    const defaults = Object.fromEntries(Object.entries(spec.params).map(([name, p]) => [name, p.default]));
    return { effect, uniforms: spec.resolve({ ...defaults, ...params }, { seed, age, lead: 2, tail: 8, fps: 30 })! };
  },

  /** The canvas's own bytes against a read back of the same draw, and the precision in use. */
  screen(passes: Pass[]) {
    const yuv = cardYuv(192, 108, { matrix: 'bt709', fullRange: false });
    const r = draw();
    r.show(picture(yuv), passes, 192, 108);
    const copy = new OffscreenCanvas(192, 108).getContext('2d')!;
    copy.drawImage(r.canvas, 0, 0);
    return { ...difference(copy.getImageData(0, 0, 192, 108).data, r.read(picture(yuv), passes, 192, 108)), precision: r.precision };
  },

  /** Draws, loses the context, waits for it to come back, draws again. */
  async lose(passes: Pass[]) {
    const canvas = new OffscreenCanvas(64, 36);
    let restored = 0;
    const r = new Renderer(canvas, () => restored++);
    const yuv = cardYuv(64, 36, { matrix: 'bt709', fullRange: false });
    const before = r.read(picture(yuv), passes, 64, 36);
    r.loseContext(50);
    await new Promise((resolve) => setTimeout(resolve, 400));
    return { restored, ...difference(r.read(picture(yuv), passes, 64, 36), before) };
  },

  describe: (url: string) => describeMedia({ url }, 'It').then(
    ({ starts, ...about }) => ({ ok: true as const, about: { ...about, starts: starts ? [...starts] : null } }),
    (error: { code?: string; message: string }) => ({ ok: false as const, code: error.code, message: error.message })),

  /** Reads frames by number; each of `numbered.mp4` says its own number in bars. */
  async frames(url: string, wanted: number[], budget?: number) {
    const about = await describeMedia({ url }, 'It');
    const { rate, count, first } = about.video!;
    const times = about.starts ? listedTimes(about.starts, about.lastDuration) : regularTimes(rate, count, first);
    const reader = await FrameReader.open({ url }, times, 'It', budget);
    const got: { number: number; ms: number; width: number; height: number }[] = [];
    for (const index of wanted) {
      const began = performance.now();
      const { data, width, height } = await reader.get(index);
      const ms = performance.now() - began;
      let number = 0;
      for (let b = 0; b < 16; b++) if (data[(height >> 1) * width + Math.floor(((b + 0.5) * width) / 16)]! > 128) number |= 1 << b;
      got.push({ number, ms, width, height });
    }
    await reader.close();
    return { got, open: openFrames.count, taken: openFrames.taken };
  },

  /** Mean RGB (0-255) of the first frame, through the renderer. */
  async meanColour(url: string, whole = false) {
    const media = await openMedia({ url });
    const sample = await new VideoSampleSink(media.video!).getSample(await media.video!.getFirstTimestamp());
    const yuv = await takeFrame(sample!);
    const rotation = await media.video!.getRotation();
    const [width, height] = rotation % 180 ? [yuv.height, yuv.width] : [yuv.width, yuv.height];
    const bytes = draw().read({ yuv, rotation, aspect: width! / height!, fit: 'fit' }, [], width! & ~1, height! & ~1);
    media.input.dispose();
    const mean = [0, 0, 0];
    for (let i = 0; i < bytes.length; i++) if (i % 4 < 3) mean[i % 4]! += bytes[i]! / (bytes.length / 4);
    return { mean, width, height, bytes: whole ? [...bytes] : null };
  },

  async hits(url: string, sensitivity: number | null = null) {
    const about = await describeMedia({ url }, 'It');
    const { signals } = await analyse({ url }, { name: 'It', tracks: about.audio.length ? [0] : [], picture: about.video !== null, duration: about.duration }, { progress: () => undefined });
    const { hits } = findHits({ id: 's', role: about.video ? 'footage' : 'music', tracks: [], delay: null }, signals, {
      sensitivity: sensitivity === null ? {} : Object.fromEntries(HIT_KINDS.map((kind) => [kind, sensitivity])),
    });
    return { duration: about.duration, hits };
  },

  /** Whether an analysis that is cut off at its first partial report, stored and gone on with gives what an unbroken one does. */
  async resumed(url: string) {
    const about = await describeMedia({ url }, 'It');
    const options = { name: 'It', tracks: [0], picture: true, duration: about.duration };
    const whole = await analyse({ url }, options, { progress: () => undefined });
    const stop = new AbortController();
    let kept: Uint8Array<ArrayBuffer> | null = null;
    let frames = 0;
    const partial = analyse({ url }, options, {
      progress: () => undefined,
      partial(signals, checkpoint) {
        frames = signals.picture?.times.length ?? 0;
        if (frames < 50) return;
        stop.abort();
        void pack(checkpoint).then((packed) => (kept = packed));
      },
    }, stop.signal, null, 0);
    const cut = await partial.then(() => false, () => true);
    while (!kept) await new Promise((resolve) => setTimeout(resolve, 10));
    const again = await analyse({ url }, options, { progress: () => undefined }, undefined, await unpack<Checkpoint>(kept));
    /** Largest difference of each array, relative to its largest value; infinite where lengths differ. */
    const apart = (a: object, b: object): [string, number][] => Object.entries(a).filter(([, value]) => ArrayBuffer.isView(value)).map(([name, value]) => {
      const [x, y] = [value as Float64Array, (b as Record<string, Float64Array>)[name]!];
      let [far, most] = [0, 1e-9];
      for (let i = 0; i < x.length; i++) {
        far = Math.max(far, Math.abs(x[i]! - y[i]!));
        most = Math.max(most, Math.abs(x[i]!));
      }
      return [name, x.length === y.length ? far / most : Infinity];
    });
    return {
      cut, frames, all: whole.signals.picture!.times.length,
      sound: Object.fromEntries(apart(whole.signals.sounds[0]!, again.signals.sounds[0]!)),
      picture: Object.fromEntries(apart(whole.signals.picture!, again.signals.picture!)),
    };
  },

  /** Bytes in memory and compressed, and whether they come back as they were. */
  async packed(url: string) {
    const about = await describeMedia({ url }, 'It');
    const { signals } = await analyse({ url }, { name: 'It', tracks: about.audio.length ? [0] : [], picture: about.video !== null, duration: about.duration }, { progress: () => undefined });
    const bytes = await pack(signals);
    const back = await unpack<Signals>(bytes);
    return { seconds: about.duration, bytes: bytes.length, same: JSON.stringify(back) === JSON.stringify(signals) };
  },

  /** Appearances in a rectangle of what the frame at `t` shows there. */
  async watched(url: string, region: Region, t: number | null) {
    const about = await describeMedia({ url }, 'It');
    const sought = t === null ? null : await takeExample({ url }, 'It', region, t);
    const signal = await watch({ url }, { name: 'It', duration: about.duration }, region, sought, () => undefined);
    return (sought ? appearances : changes)(signal, 0.5);
  },

  /** Stereo sound of a plan, and how far reading it in uneven pieces differs from reading it whole. */
  async mix(segments: { url: string; track: number; at: number; in: number; out: number; gain: number }[], seconds: number) {
    const mixer = new Mixer(segments.map((s) => ({ ...s, source: s.url })), (url) => ({ url }), 48000);
    const [left, right] = await mixer.read(0, seconds * 48000);
    let seam = 0;
    for (let at = 0; at < left.length;) {
      const n = Math.min(left.length - at, 7000 + (at % 5000));
      const [piece] = await mixer.read(at / 48000, n);
      for (let i = 0; i < n; i++) seam = Math.max(seam, Math.abs(piece[i]! - left[at + i]!));
      at += n;
    }
    await mixer.close();
    const onsets: [number, number][] = [];
    left.forEach((v, i) => {
      const t = i / 48000;
      if (Math.abs(v) > 0.05 && t - (onsets.at(-1)?.[0] ?? -1) > 0.1) onsets.push([t, Math.max(...left.subarray(i, i + 96).map(Math.abs))]);
    });
    return { onsets, seam, same: left.every((v, i) => Math.abs(v - right[i]!) < 1e-3) };
  },

  /** The beat grid of a file's sound. */
  async grid(url: string) {
    const about = await describeMedia({ url }, 'It');
    const { signals } = await analyse({ url }, { name: 'It', tracks: [0], picture: false, duration: about.duration }, { progress: () => undefined });
    const began = performance.now();
    return { ...beatGrid(signals.sounds[0]!), has: hasBeat(signals.sounds[0]!), ms: performance.now() - began };
  },

  /** First samples above a tenth of full scale after each silence, seconds; and all frames' mean luma. */
  async read(url: string) {
    const media = await openMedia({ url });
    const clicks: number[] = [];
    let quietSince = -1;
    if (media.audio[0]) for await (const block of soundBlocks(media, 0)) {
      const samples = mono(block);
      samples.forEach((v, i) => {
        const t = block.t + i / block.sampleRate;
        if (Math.abs(v) > 0.1) {
          if (t - quietSince > 0.1) clicks.push(t);
          quietSince = t;
        }
      });
    }
    const frames: { t: number; mean: number; format: string | null; range: boolean | null; matrix: string | null }[] = [];
    for await (const sample of new VideoSampleSink(media.video!).samples()) {
      const { timestamp: t, format, colorSpace } = sample;
      const yuv = await takeFrame(sample);
      const luma = yuv.data.subarray(0, yuv.width * yuv.height);
      frames.push({ t, format, range: colorSpace.fullRange, matrix: colorSpace.matrix, mean: luma.reduce((s, v) => s + v, 0) / luma.length });
    }
    media.input.dispose();
    return { clicks, frames };
  },

  /** Mean absolute luma difference of two files' frames. */
  async lumaGaps(a: string, b: string) {
    const open = async (url: string) => {
      const media = await openMedia({ url });
      return new VideoSampleSink(media.video!).samples();
    };
    const [one, two] = [await open(a), await open(b)];
    const gaps: number[] = [];
    for (;;) {
      const [x, y] = [await one.next(), await two.next()];
      if (x.done || y.done) {
        await one.return();
        await two.return();
        return gaps;
      }
      const [p, q] = [await takeFrame(x.value), await takeFrame(y.value)];
      const n = p.width * p.height;
      let sum = 0;
      for (let i = 0; i < n; i++) sum += Math.abs(p.data[i]! - q.data[i]!);
      gaps.push(sum / n);
    }
  },
};

export type Parts = typeof parts;
declare global {
  interface Window { parts: Parts }
}
window.parts = parts;
