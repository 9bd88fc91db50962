/** Runs in Chromium: the engine's parts on `window.parts`, so that tests can ask for numbers. */
import { planner, type Pass } from '../../src/core/accents/plan.ts';
import { decideAll } from '../../src/core/document/edits.ts';
import { inFormat } from '../../src/core/document/formats.ts';
import { mediaIndex } from '../../src/core/timeline/timeline.ts';
import { EFFECTS } from '../../src/effects/index.ts';
import {
  DEFAULT_ACCENT,
  DEFAULT_MASTER,
  DEFAULT_SOUND,
  DEFAULT_TITLE,
  type Accent,
  type EffectUse,
  type Settings,
} from '../../src/core/document/types.ts';
import { toLinear, fromLinear, rgbaToI420, type YuvColour } from '../../src/core/base/colour.ts';
import { drawReference, lower } from '../../src/effects/compose.ts';
import { FrameReader } from '../../src/engine/media/frames.ts';
import { describeMedia, openMedia, type MediaDescription, type MediaLocation } from '../../src/engine/media/open.ts';
import { exportMontage, writableKinds, type ExportOptions } from '../../src/engine/export/export.ts';
import { bitrateFor, expectedSize, exportKind, soundIn } from '../../src/engine/export/kinds.ts';
import type { ListedStarts } from '../../src/engine/media/starts.ts';
import { mono, soundBlocks } from '../../src/engine/media/sound.ts';
import type { PlacedMove } from '../../src/core/sound/lane-moves.ts';
import { loudestMoment } from '../../src/core/sound/made/index.ts';
import type { SoundSegment } from '../../src/core/sound/sound-plan.ts';
import { sentence } from '../../src/engine/errors.ts';
import { Mixer } from '../../src/engine/media/mixer.ts';
import { openFrames, takeFrame, type YuvFrame } from '../../src/engine/media/yuv.ts';
import { hit, punchAccent, shotRule, silentMontage } from '../../src/core/testkit/montages.ts';
import { listedTimes, regularTimes } from '../../src/core/timeline/frame-times.ts';
import { LanesRenderer } from '../../src/engine/render/lanes/lanes-renderer.ts';
import { Renderer } from '../../src/engine/render/renderer.ts';
import {
  asDrawing,
  asUses,
  cardYuv,
  compared,
  developed,
  difference,
  stackPasses,
  type Stack,
} from '../../src/engine/testkit/stacks.ts';
import {
  emptyMontage,
  HIT_KINDS,
  DEFAULT_GRID,
  type Clip,
  type Montage,
  type Ramp,
  type Region,
  type RegionShape,
  type Source,
  type Title,
} from '../../src/core/document/types.ts';
import { FrameServer } from '../../src/engine/preview/frame-server.ts';
import type { Signals } from '../../src/core/finding/signals/types.ts';
import { appearances, changes } from '../../src/core/finding/watch/watch.ts';
import { analyse, type Checkpoint } from '../../src/engine/analyse/analyse.ts';
import { takeExample, watch } from '../../src/engine/analyse/watch.ts';
import { pack, unpack } from '../../src/engine/storage/pack.ts';
import { beatGrid, hasBeat } from '../../src/core/finding/beats/track.ts';
import { findHits } from '../../src/core/finding/detectors/index.ts';
import { fromByteArray } from 'base64-js';
import { Resampler } from '../../src/core/base/resample.ts';
import { toStereo } from '../../src/core/sound/downmix.ts';
import { VideoSampleSink } from 'mediabunny';

let renderer: Renderer | null = null;
let onLanes: LanesRenderer | null = null;
const lanes = (): LanesRenderer => (onLanes ??= new LanesRenderer(null));
const draw = (): Renderer => (renderer ??= new Renderer(new OffscreenCanvas(16, 16)));

/** A montage of one whole recording, with pieces of music from its beginning. */
function oneClip(
  about: MediaDescription,
  music: readonly { id: string; name: string; duration: number; audio: Source['audio']; gain: number }[] = [],
): Montage {
  const plain = emptyMontage('x', 'X');
  const source = (id: string, name: string, of: Pick<Source, 'duration' | 'video' | 'audio'>): Source => ({
    id,
    name,
    role: of.video ? 'footage' : 'music',
    fingerprint: '',
    size: 0,
    ...of,
    listen: of.audio.length ? 0 : null,
    tracks: [],
    delay: null,
    grid: DEFAULT_GRID,
    content: 'unsaid',
  });
  return {
    ...plain,
    settings: {
      ...plain.settings,
      width: about.video!.width & ~1,
      height: about.video!.height & ~1,
      timing: { mode: 'constant', rate: about.video!.rate },
    },
    sources: [
      source('s', 'It', { duration: about.duration, video: about.video, audio: music.length ? [] : about.audio }),
      ...music.map((m) => source(m.id, m.name, { duration: m.duration, video: null, audio: m.audio })),
    ],
    clips: [{ id: 'c', source: 's', in: about.video!.first, out: about.duration, fit: 'fit' }],
    music: music.map((m) => ({ id: `lane-${m.id}`, source: m.id, at: 0, in: 0, out: m.duration, gain: m.gain })),
  };
}

/** Frame 40 of a montage of one recording, drawn small. */
async function readSmall(url: string, of: Montage, renderer: 'gpu' | 'cpu') {
  const server = new FrameServer(renderer);
  await server.setMontage(of, {});
  await server.setMedia('s', { url });
  const rgba = await server.read(40, { plain: false, width: 320, height: 180 });
  await server.close();
  return rgba;
}

async function exportToMemory(
  montage: Montage,
  locations: ReadonlyMap<string, MediaLocation>,
  sound: ExportOptions['sound'],
  listed: ListedStarts = {},
  more: Partial<ExportOptions> = {},
) {
  let bytes = new Uint8Array(1 << 20);
  let length = 0;
  const writable = new WritableStream<{ data: Uint8Array; position: number }>({
    write({ data, position }) {
      const end = position + data.length;
      if (end > bytes.length) {
        const larger = new Uint8Array(Math.max(end, bytes.length * 2));
        larger.set(bytes);
        bytes = larger;
      }
      bytes.set(data, position);
      length = Math.max(length, end);
    },
  });
  const { width, height, timing } = montage.settings;
  const result = await exportMontage(
    { montage, locations, listed, options: { width, height, timing, sound, ...more } },
    writable as never,
    () => undefined,
  );
  return { blob: new Blob([bytes.subarray(0, length)]), result };
}

/** Left of a file's first sound track in one go, at 48 kHz from second 0 on. */
async function continuousDecode(location: MediaLocation, side: 0 | 1 = 0): Promise<Float32Array<ArrayBuffer>> {
  const media = await openMedia(location);
  const blocks: Float32Array<ArrayBuffer>[] = [];
  let start = 0;
  let rate = 48000;
  for await (const block of soundBlocks(media, 0)) {
    if (!blocks.length) [start, rate] = [block.t, block.sampleRate];
    blocks.push(toStereo(block.channels)[side]);
  }
  media.input.dispose();
  const lead = Math.round(start * rate);
  const all = new Float32Array(lead + blocks.reduce((n, part) => n + part.length, 0));
  let at = lead;
  for (const part of blocks) {
    all.set(at < 0 ? part.subarray(-at) : part, Math.max(0, at));
    at += part.length;
  }
  return new Resampler(rate, 48000).all(all);
}

/** The number that a numbered frame tells: sixteen bars, black or white. */
function numberOf({ data, width, height }: YuvFrame): number {
  let number = 0;
  for (let b = 0; b < 16; b++)
    if (data[(height >> 1) * width + Math.floor(((b + 0.5) * width) / 16)]! > 128) number |= 1 << b;
  return number;
}

/** A WAVE file of floats (RIFF, format tag 3). */
function floatWave(channels: readonly Float32Array[], rate: number): Blob {
  const frames = channels[0]!.length;
  const data = new Float32Array(frames * channels.length);
  channels.forEach((channel, c) => channel.forEach((v, i) => (data[i * channels.length + c] = v)));
  const head = new DataView(new ArrayBuffer(44));
  const tag = (at: number, text: string): void => [...text].forEach((c, i) => head.setUint8(at + i, c.charCodeAt(0)));
  tag(0, 'RIFF');
  head.setUint32(4, 36 + data.byteLength, true);
  tag(8, 'WAVEfmt ');
  head.setUint32(16, 16, true);
  head.setUint16(20, 3, true);
  head.setUint16(22, channels.length, true);
  head.setUint32(24, rate, true);
  head.setUint32(28, rate * channels.length * 4, true);
  head.setUint16(32, channels.length * 4, true);
  head.setUint16(34, 32, true);
  tag(36, 'data');
  head.setUint32(40, data.byteLength, true);
  return new Blob([head.buffer, data]);
}

/** The largest difference in any window of 20 ms, in decibels of the truth's level there. */
function residue(of: Float32Array, truth: Float32Array): number {
  let worst = -Infinity;
  for (let w = 0; w + 960 <= of.length; w += 960) {
    let [error, level] = [0, 1e-12];
    for (let i = w; i < w + 960; i++) {
      error += (of[i]! - truth[i]!) ** 2;
      level += truth[i]! ** 2;
    }
    worst = Math.max(worst, 10 * Math.log10(error / level + 1e-15));
  }
  return worst;
}

/** Light of each byte, and large cards by the frames they are later: both are asked for over and over. */
const LINEAR = Float64Array.from({ length: 256 }, (_, v) => toLinear(v / 255));
const bigCards = new Map<number, YuvFrame>();
function bigCard(shift: number): YuvFrame {
  let card = bigCards.get(shift);
  if (!card) bigCards.set(shift, (card = cardYuv(1920, 1080, undefined, shift)));
  return card;
}

/** A mixer at 48 kHz of voices in one lane, which nothing limits. */
const mixerOf = (
  voices: readonly Omit<SoundSegment, 'lane'>[],
  locate: (source: string) => MediaLocation | undefined,
): Mixer =>
  new Mixer(
    { voices: voices.map((voice) => ({ ...voice, lane: 'clips' })), moves: [], master: DEFAULT_MASTER },
    locate,
    48000,
    'clips',
  );

/** Left of a sound of two seconds, at 48 kHz, as a sound plan plays it at a speed: in blocks, as it is played and exported. */
async function playedAt(sound: Float32Array, speed: number, seconds: number, pitch?: 'kept'): Promise<number[]> {
  const begin = speed > 0 ? 0 : 2;
  const segment = { source: 's', track: 0, at: 0, in: begin, out: begin + seconds, gain: 1 };
  const wave = floatWave([sound, sound], 48000);
  const mixer = mixerOf([{ ...segment, runs: (t: number) => begin + t * speed, pitch }], () => ({ blob: wave }));
  const left: number[] = [];
  for (let at = 0; at < seconds * 48000; at += 12000) left.push(...(await mixer.read(at / 48000, 12000))[0]);
  await mixer.close();
  return left;
}

/** Height of a steady tone at 48 kHz, hertz, by where it rises through zero; and its peak. */
function pitchOf(tone: readonly number[]): { pitch: number; level: number } {
  const rises = tone.flatMap((v, i) => (i > 0 && tone[i - 1]! < 0 && v >= 0 ? [i - v / (v - tone[i - 1]!)] : []));
  return {
    pitch: ((rises.length - 1) * 48000) / (rises.at(-1)! - rises[0]!),
    level: tone.reduce((top, v) => Math.max(top, v), 0),
  };
}

const parts = {
  /** A renderer against the reference for a stack on the test card, in steps of 1/255. */
  compare(kind: 'gpu' | 'cpu', list: Stack, age = 1, seed = 7, width = 128, height = 72) {
    return compared(kind === 'gpu' ? draw() : lanes(), list, age, seed, width, height);
  },

  /** Bytes in which planes, two frames on their way at once, are other than the plain conversion of what is read back. */
  async planes(kind: 'gpu' | 'cpu', list: Stack, width: number, height: number) {
    const renderer = kind === 'gpu' ? draw() : lanes();
    const drawings = [1, 2].map((age) => asDrawing(stackPasses(asUses(list), age, 7).passes, cardYuv(width, height)));
    const planes = await Promise.all(drawings.map((drawing) => renderer.planes(drawing, width, height)));
    let others = 0;
    drawings.forEach((drawing, i) => {
      const plain = new Uint8Array(width * height * 1.5);
      rgbaToI420(renderer.read(drawing, width, height), width, height, plain);
      others += plain.reduce((sum, byte, at) => sum + (byte === planes[i]![at] ? 0 : 1), 0);
    });
    return others;
  },

  /** The two renderers against each other, in steps of 1/255. */
  between(list: Stack, age = 1, seed = 7, width = 128, height = 72) {
    const { passes, shifts } = stackPasses(asUses(list), age, seed);
    const drawing = asDrawing(
      passes,
      cardYuv(width, height),
      shifts.map((shift) => cardYuv(width, height, undefined, shift)),
    );
    return difference(draw().read(drawing, width, height), lanes().read(drawing, width, height));
  },

  /** A stack drawn at two sizes of the same frame, by the quicker of the two, the larger one averaged down to the smaller. */
  sizes(list: [effect: string, params: EffectUse['params'], more?: Partial<EffectUse>][], age = 1, seed = 7) {
    const big = bigCard(0);
    const { passes, shifts } = stackPasses(asUses(list), age, seed);
    const others = shifts.map(bigCard);
    const at = (width: number, height: number) => lanes().read(asDrawing(passes, big, others), width, height);
    const [small, large] = [at(640, 360), at(1920, 1080)];
    const mean = new Float64Array(small.length);
    for (let y = 0; y < 360; y++)
      for (let x = 0; x < 640; x++)
        for (let c = 0; c < 4; c++) {
          let sum = 0;
          for (let j = 0; j < 3; j++)
            for (let i = 0; i < 3; i++) sum += LINEAR[large[((3 * y + j) * 1920 + 3 * x + i) * 4 + c]!]!;
          mean[(y * 640 + x) * 4 + c] = 255 * fromLinear(sum / 9);
        }
    return difference(small, mean);
  },

  /** A grey ramp through an effect that leaves it smooth: the largest difference of local means, in steps of 1/255. */
  ramp() {
    const [width, height] = [512, 64];
    const data = new Uint8Array(width * height * 1.5).fill(128);
    for (let y = 0; y < height; y++) data.fill(128, y * width, (y + 1) * width);
    const yuv = { width, height, data, colour: { matrix: 'bt709', fullRange: true } } as YuvFrame;
    // A vignette over even grey is a ramp of very small steps.
    const { passes } = stackPasses(asUses([['vignette', { amount: 30, size: 0, soft: 300, centreX: -100 }]]), 1, 1);
    const gpu = draw().read(asDrawing(passes, yuv), width, height);
    const exact = drawReference(lower(passes, yuv), { width, height, data: developed(yuv) }).data.map(
      (v) => 255 * fromLinear(v),
    );
    let worst = 0;
    for (let y = 0; y + 8 <= height; y += 8)
      for (let x = 0; x + 8 <= width; x += 8) {
        let gap = 0;
        for (let j = 0; j < 8; j++)
          for (let i = 0; i < 8; i++)
            gap += gpu[((y + j) * width + x + i) * 4]! - exact[((y + j) * width + x + i) * 4]!;
        worst = Math.max(worst, Math.abs(gap / 64));
      }
    return worst;
  },

  /** A blur of a point or a step against the sum over all pixels in double precision, in 255ths of the brightest result. */
  blur(shape: 'point' | 'step', radiusPx: number) {
    const [width, height] = [512, 512];
    const data = new Uint8Array(width * height * 1.5).fill(128);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        // A point is a square as large as a third of the radius, else nothing of it would be left in eight bits.
        const side = Math.max(1, radiusPx / 3);
        data[y * width + x] = (shape === 'step' ? x >= 250 : Math.abs(x - 250) < side && Math.abs(y - 260) < side)
          ? 255
          : 0;
      }
    const yuv = { width, height, data, colour: { matrix: 'bt709', fullRange: true } } as YuvFrame;
    const { passes } = stackPasses(asUses([['soft', { radius: (radiusPx * 100) / height }]]), 1, 1);
    const gpu = draw().read(asDrawing(passes, yuv), width, height);
    const source = developed(yuv);
    const sigma = radiusPx / 2;
    const weights = Array.from({ length: 2 * Math.ceil(5 * sigma) + 1 }, (_, i) =>
      Math.exp(-((i - Math.ceil(5 * sigma)) ** 2) / (2 * sigma * sigma)),
    );
    const total = weights.reduce((a, b) => a + b, 0);
    const mirror = (i: number, n: number): number => {
      const m = ((i % (2 * n)) + 2 * n) % (2 * n);
      return m < n ? m : 2 * n - 1 - m;
    };
    const half = (weights.length - 1) / 2;
    const across = new Float64Array(width * height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        weights.forEach(
          (w, i) => (across[y * width + x]! += (w / total) * source[(y * width + mirror(x + i - half, width)) * 4]!),
        );
    let worst = 0;
    for (let y = 8; y < height; y += 7)
      for (let x = 0; x < width; x++) {
        let sum = 0;
        weights.forEach((w, i) => (sum += (w / total) * across[mirror(y + i - half, height) * width + x]!));
        // In linear light, beyond what one step of the eight bits (half for rounding, half for dither) explains.
        const v = gpu[(y * width + x) * 4]!;
        worst = Math.max(
          worst,
          (sum - toLinear(Math.min(255, v + 1) / 255)) * 255,
          (toLinear(Math.max(0, v - 1) / 255) - sum) * 255,
        );
      }
    return worst;
  },

  /** An untouched frame after the round trip through the renderer, against plain conversion. */
  roundTrip(colour: YuvColour) {
    const yuv = cardYuv(192, 108, colour);
    const gpu = draw().read(asDrawing([], yuv), 192, 108);
    const cpu = Float64Array.from(developed(yuv), (v, i) => (i % 4 === 3 ? 255 : 255 * fromLinear(v)));
    return difference(gpu, cpu);
  },

  resolve: (effect: string, params: EffectUse['params'], seed = 7, age = 1) =>
    stackPasses(asUses([[effect, params]]), age, seed).passes[0]!,

  /** The canvas's own bytes against a read back of the same draw, and the precision in use. */
  screen(passes: Pass[]) {
    const yuv = cardYuv(192, 108, { matrix: 'bt709', fullRange: false });
    const r = draw();
    r.show({ drawing: asDrawing(passes, yuv), key: null }, 192, 108);
    const copy = new OffscreenCanvas(192, 108).getContext('2d')!;
    copy.drawImage(r.canvas, 0, 0);
    return {
      ...difference(copy.getImageData(0, 0, 192, 108).data, r.read(asDrawing(passes, yuv), 192, 108)),
      precision: r.precision,
    };
  },

  /** Draws, loses the context, waits for it to come back, draws again. */
  async lose(passes: Pass[]) {
    const canvas = new OffscreenCanvas(64, 36);
    let restored = 0;
    const r = new Renderer(canvas, () => restored++);
    const yuv = cardYuv(64, 36, { matrix: 'bt709', fullRange: false });
    const before = r.read(asDrawing(passes, yuv), 64, 36);
    r.loseContext(50);
    await new Promise((resolve) => setTimeout(resolve, 400));
    return { restored, ...difference(r.read(asDrawing(passes, yuv), 64, 36), before) };
  },

  /** Twenty drawings that fail in their middle, and one after them. */
  failing() {
    const r = new Renderer(new OffscreenCanvas(16, 16));
    const yuv = cardYuv(64, 36);
    const wrong = [
      { effect: 'punch', uniforms: { focus: [0, 0], turn: [1, 0] } },
      { effect: 'nowhere', uniforms: {} },
    ];
    let failed = 0;
    for (let i = 0; i < 20; i++) {
      try {
        // A picture of no planes fails while it is uploaded, after targets were taken.
        r.read(asDrawing(wrong as Pass[], yuv, [{ ...yuv, data: null as never }]), 64, 36);
      } catch {
        failed++;
      }
    }
    const fine = r.read(asDrawing([], yuv), 64, 36).some((v, i) => i % 4 < 3 && v > 0);
    return { failed, borrowed: r.borrowedTargets, fine };
  },

  /** How many textures of tables are made for one table in as many copies. */
  tablesUploaded(copies: number) {
    const r = new Renderer(new OffscreenCanvas(16, 16));
    const gl = r.canvas.getContext('webgl2')!;
    let uploads = 0;
    const own = gl.texImage3D.bind(gl) as (...args: unknown[]) => void;
    gl.texImage3D = ((...args: unknown[]) => {
      uploads++;
      own(...args);
    }) as never;
    const yuv = cardYuv(64, 36);
    const values = fromByteArray(new Uint8Array(8 * 3 * 2).map((_, i) => (i * 37) & 255));
    for (let i = 0; i < copies; i++) {
      const table = structuredClone({ name: 't', size: 2, values });
      const { passes } = stackPasses(asUses([['lut', { amount: 100 }, { table }]]), 1, 1);
      r.read(asDrawing(passes, yuv), 64, 36);
    }
    return uploads;
  },

  /** What a picture larger than the graphics unit draws is answered with. */
  tooLarge() {
    try {
      draw().read(asDrawing([], cardYuv(64, 36)), 100_000, 36);
      return '';
    } catch (error) {
      return (error as Error).message;
    }
  },

  /** Frames asked for while the montage is edited, as it comes over from another thread: a new copy each time. */
  async editedWhileRead(url: string) {
    const about = await describeMedia({ url }, 'It');
    const montage = silentMontage(about, 320, 180);
    const frameServer = new FrameServer();
    await frameServer.setMedia('s', { url });
    await frameServer.setMontage(montage, {});
    await frameServer.read(0, { plain: true, width: 32, height: 18 });
    const read: Promise<string>[] = [];
    for (let i = 1; i < 12; i++) {
      // Far apart, so that each has to be decoded.
      for (const frame of [i * 13, 170 - i * 11])
        read.push(
          frameServer.read(frame, { plain: true, width: 32, height: 18 }).then(
            () => '',
            (error: Error) => error.message,
          ),
        );
      await new Promise((resolve) => setTimeout(resolve));
      await frameServer.setMontage(structuredClone({ ...montage, name: `Edit ${i}` }), {});
    }
    const answers = await Promise.all(read);
    await frameServer.close();
    return answers.filter(Boolean);
  },

  /** A loop around an accent through the studio: frames drawn in each round, as the accent and then the context change. */
  async loop(url: string) {
    const about = await describeMedia({ url }, 'It');
    const rate = about.video!.rate;
    const montage = silentMontage(about, 320, 180);
    const canvas = new OffscreenCanvas(16, 16);
    const frameServer = new FrameServer('gpu');
    frameServer.attach(canvas);
    await frameServer.setMedia('s', { url });
    await frameServer.setMontage(montage, {});
    const accent = (zoom: number) => ({
      ...DEFAULT_ACCENT,
      id: 'a',
      name: 'A',
      rate,
      lead: 1,
      tail: 3,
      seed: 1,
      effects: asUses([['punch', { zoom }]]),
    });
    const round = async (zoom: number): Promise<number> => {
      const before = frameServer.framesDrawn;
      for (let frame = 20; frame < 40; frame++)
        await frameServer.show(frame, {
          plain: false,
          width: 160,
          height: 90,
          audition: { accent: accent(zoom), frame: 30, intensity: 1 },
        });
      return frameServer.framesDrawn - before;
    };
    const rounds = [await round(120), await round(120), await round(140), await round(120)];
    // In the middle of a round the context goes, and comes back by itself.
    const lost = canvas.getContext('webgl2')!.getExtension('WEBGL_lose_context')!;
    const half = round(130);
    lost.loseContext();
    await half;
    setTimeout(() => lost.restoreContext(), 50);
    await new Promise((resolve) => setTimeout(resolve, 400));
    const after = [await round(130), await round(130)];
    await frameServer.close();
    return { rounds, after };
  },

  /** What showing frames comes to when the graphics context goes and never comes back. */
  async lostForGood(url: string) {
    const about = await describeMedia({ url }, 'clip');
    const canvas = new OffscreenCanvas(16, 16);
    const frameServer = new FrameServer('gpu');
    frameServer.attach(canvas);
    await frameServer.setMedia('s', { url });
    await frameServer.setMontage(silentMontage(about, 160, 90, 1), {});
    const show = (frame: number) => frameServer.show(frame, { plain: true, width: 160, height: 90 });
    await show(0);
    canvas.getContext('webgl2')!.getExtension('WEBGL_lose_context')!.loseContext();
    await new Promise((resolve) => setTimeout(resolve, 50));
    const codes: string[] = [];
    for (let frame = 1; frame < 40 && !codes.length; frame++) {
      await show(frame % 20).catch((error: { code: string }) => codes.push(error.code));
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
    await frameServer.close();
    return codes;
  },

  describe: (url: string) =>
    describeMedia({ url }, 'It').then(
      ({ starts, ...about }) => ({ ok: true as const, about: { ...about, starts: starts ? [...starts] : null } }),
      (error: { code?: string; message: string }) => ({ ok: false as const, code: error.code, message: error.message }),
    ),

  /** Reads frames by number; each of `numbered.mp4` says its own number in bars. */
  /**
   * A numbered recording exported with a clip that runs otherwise, and hits that a rule lays a ramp on: which source frame
   * is planned for each output frame, and which one the file shows there.
   */
  async exportedSpeed(url: string, change: Partial<Clip>, ramp: Ramp | null, hits: readonly number[] = []) {
    const about = await describeMedia({ url }, 'It');
    const plain = oneClip({ ...about, audio: [] });
    const accent = { ...punchAccent('a', about.video!.rate), effects: [], ...(ramp && { ramp }) };
    const montage = decideAll(
      hits.map((t, i) => hit(`h${i}`, 's', t)),
      'kept',
    )({
      ...plain,
      clips: plain.clips.map((clip) => ({ ...clip, ...change })),
      accents: [accent],
      rules: [shotRule()],
    });
    const plans = planner(montage, mediaIndex(montage.sources), EFFECTS);
    const planned = Array.from({ length: plans.timeline.count }, (_, i) => plans.at(i).picture!);
    const { blob, result } = await exportToMemory(montage, new Map([['s', { url }]]), 'none');
    const media = await openMedia({ blob });
    const shown: number[] = [];
    for await (const sample of new VideoSampleSink(media.video!).samples())
      shown.push(numberOf(await takeFrame(sample)));
    media.input.dispose();
    return { planned: planned.map(({ frame, mixed }) => ({ frame, mixed: Boolean(mixed) })), shown, result };
  },

  /**
   * A range of a numbered recording, as each kind of file that this browser can write: which frames it shows, when its
   * first and last one are, and how long its sound is. And what a kind is refused for.
   */
  async exportedKinds(url: string, from: number, to: number) {
    const about = await describeMedia({ url }, 'It');
    const montage = oneClip(about);
    const files: Record<string, { shown: number[]; first: number; sound: number; size: number; expected: number }> = {};
    const writable = await writableKinds(montage.settings.width, montage.settings.height);
    for (const id of writable) {
      const kind = exportKind(id);
      const sound = soundIn(kind, about.audio.length ? 'aac' : 'none');
      const { blob, result } = await exportToMemory(
        montage,
        new Map([['s', { url }]]),
        sound,
        {},
        {
          kind: id,
          range: { from, to },
        },
      );
      const media = await openMedia({ blob });
      const shown: number[] = [];
      let first: number | null = null;
      for await (const sample of new VideoSampleSink(media.video!).samples()) {
        first ??= sample.timestamp;
        shown.push(numberOf(await takeFrame(sample)));
      }
      files[id] = {
        shown,
        first: first!,
        sound: media.audio[0] ? await media.audio[0].computeDuration() : 0,
        size: blob.size,
        expected: expectedSize(
          result.duration,
          bitrateFor(kind, montage.settings.width, montage.settings.height, 30, 'usual'),
          sound,
        ),
      };
      media.input.dispose();
    }
    const refused = async (more: Partial<ExportOptions>, sound: ExportOptions['sound'] = 'none'): Promise<string> =>
      exportToMemory(montage, new Map([['s', { url }]]), sound, {}, more).then(
        () => '',
        (error: unknown) => sentence(error),
      );
    return {
      files,
      aac: await refused({ kind: 'webm-vp9' }, 'aac'),
      empty: await refused({ range: { from: 9000, to: 9001 } }),
      odd: await refused({ kind: 'webm-vp9', width: 321, height: 180 }),
    };
  },

  /** Two seconds of a tone with a click at its middle, as a sound plan plays it at a speed. */
  async heardAt(speed: number, seconds: number) {
    const tone = Float32Array.from({ length: 2 * 48000 }, (_, i) => 0.3 * Math.sin((2 * Math.PI * 440 * i) / 48000));
    tone[48000] = 1;
    const left = await playedAt(tone, speed, seconds);
    let click = 0;
    left.forEach((v, i) => (Math.abs(v) > Math.abs(left[click]!) ? (click = i) : 0));
    return { ...pitchOf(left.slice(2400, 14400)), click: click / 48000 };
  },

  /** The same at its own pitch: a tone, and by itself a knock, whose beginning is where a quarter of its power is reached. */
  async stretchedAt(speed: number, seconds: number) {
    const tone = Float32Array.from({ length: 2 * 48000 }, (_, i) => 0.3 * Math.sin((2 * Math.PI * 440 * i) / 48000));
    const knock = new Float32Array(2 * 48000);
    // It fades as it is heard, backwards too.
    for (let i = 0; i < 4800; i++)
      knock[48000 + Math.sign(speed) * i] = Math.exp(-i / 800) * Math.sin(i * 12.9898 + (i * i) / 7);
    const heard = await playedAt(knock, speed, seconds, 'kept');
    const power: number[] = [];
    let sum = 0;
    for (const [i, v] of heard.entries()) power.push((sum += v * v - (heard[i - 96] ?? 0) ** 2));
    const most = power.reduce((top, v) => Math.max(top, v), 0);
    const tones = await playedAt(tone, speed, Math.min(seconds, 2 / Math.abs(speed)), 'kept');
    return { ...pitchOf(tones.slice(14400, -4800)), attack: (power.findIndex((v) => v > most / 4) - 48) / 48000 };
  },

  /**
   * Two hits with an accent that snaps and lowers a steady tone of music, exported and read again: where the snaps are
   * loudest, seconds, and how far down the music is at these seconds, decibels.
   */
  async accentsHeard(url: string, hits: readonly number[], at: readonly number[], mix: Partial<Settings> = {}) {
    const about = await describeMedia({ url }, 'It');
    const tone = Float32Array.from({ length: 6 * 48000 }, (_, i) => 0.1 * Math.sin((2 * Math.PI * 440 * i) / 48000));
    const wave = floatWave([tone, tone], 48000);
    const { audio } = await describeMedia({ blob: wave }, 'Music');
    const plain = oneClip(about, [{ id: 'm', name: 'Music', duration: 6, audio, gain: 1 }]);
    const accent: Accent = {
      ...punchAccent(),
      sounds: [{ ...DEFAULT_SOUND, id: 'snap', choices: [{ made: 'snap', params: {} }] }],
      lanes: [
        { id: 'l', on: true, lane: 'music', change: 'lower', amount: 12, begins: -6, attack: 3, hold: 12, release: 6 },
      ],
    };
    const montage = decideAll(
      hits.map((frame, i) => hit(`h${i}`, 's', frame / 30)),
      'kept',
    )({ ...plain, settings: { ...plain.settings, ...mix }, accents: [accent], rules: [shotRule()] });
    const locations = new Map<string, MediaLocation>([
      ['s', { url }],
      ['m', { blob: wave }],
    ]);
    const { blob, result } = await exportToMemory(montage, locations, 'aac');
    const left = await continuousDecode({ blob });
    // What is left where the tone is taken out.
    const twice = 2 * Math.cos((2 * Math.PI * 440) / 48000);
    const rest = left.map((v, i) => v - twice * (left[i - 1] ?? 0) + (left[i - 2] ?? 0));
    const loudest = hits.map((frame) => {
      const from = Math.round((frame / 30 - 0.15) * 48000);
      return (from + loudestMoment(rest.slice(from, from + 14400), 48000)) / 48000;
    });
    const level = (seconds: number): number => {
      const from = Math.round((seconds - 0.025) * 48000);
      let [re, im] = [0, 0];
      for (let i = 0; i < 2400; i++) {
        re += left[from + i]! * Math.cos((2 * Math.PI * 440 * i) / 48000);
        im += left[from + i]! * Math.sin((2 * Math.PI * 440 * i) / 48000);
      }
      return 20 * Math.log10(Math.hypot(re, im));
    };
    const usual = level(0.5);
    return { loudest, down: at.map((seconds) => level(seconds) - usual), loudness: result.loudness };
  },

  /** How many times real time a minute is mixed with 200 accents that sound, lower and are limited. */
  async mixingSpeed() {
    const tone = Float32Array.from({ length: 60 * 48000 }, (_, i) => 0.7 * Math.sin((2 * Math.PI * 220 * i) / 48000));
    const wave = floatWave([tone, tone], 48000);
    const { voices, moves } = Array.from({ length: 200 }, (_, i) => 0.2 + i * 0.298).reduce<{
      voices: SoundSegment[];
      moves: PlacedMove[];
    }>(
      (all, at, i) => {
        const made = ['boom', 'snap', 'knock', 'whoosh-by'][i % 4]!;
        all.voices.push({
          lane: 'accents',
          source: '',
          made: { made, params: {}, seed: i % 8 },
          track: 0,
          at,
          in: 0,
          out: 0.6,
          gain: 1,
          ...(i % 3 === 0 && { runs: (seconds: number) => seconds * 1.1 }),
        });
        all.moves.push({
          lane: 'music',
          change: i % 5 ? 'lower' : 'low-pass',
          amount: i % 5 ? 9 : 600,
          adds: false,
          from: at,
          attack: 0.05,
          hold: 0.1,
          release: 0.1,
        });
        return all;
      },
      { voices: [{ lane: 'music', source: 'm', track: 0, at: 0, in: 0, out: 60, gain: 1 }], moves: [] },
    );
    const mixer = new Mixer({ voices, moves, master: DEFAULT_MASTER }, () => ({ blob: wave }), 48000);
    const began = performance.now();
    for (let at = 0; at < 60; at += 0.5) await mixer.read(at, 24000);
    const spent = (performance.now() - began) / 1000;
    const { limited } = mixer;
    await mixer.close();
    return { times: 60 / spent, limited: limited.most };
  },

  /**
   * A title over a frame, by both renderers: the box of the pixels that it changes, shares of the frame, how many of them
   * are its own colour, and how far both renderers are apart at the most. And what a shielded corner differs by under an
   * accent on the same frame.
   */
  async titled(url: string, text: string) {
    const about = await describeMedia({ url }, 'It');
    const plain = oneClip(about);
    const title = { ...DEFAULT_TITLE, id: 't', text, comes: 'cut', goes: 'cut', colour: '#ff0000' } as const;
    const montage: Montage = { ...plain, titles: [{ ...title, y: 20, outline: 0, shadow: false }] };
    const read = (of: Montage, renderer: 'gpu' | 'cpu') => readSmall(url, of, renderer);
    const [bare, onGpu, onCpu] = [await read(plain, 'gpu'), await read(montage, 'gpu'), await read(montage, 'cpu')];
    let [left, top, right, bottom, red, apart] = [1, 1, 0, 0, 0, 0];
    for (let i = 0; i < bare.length; i += 4) {
      for (let c = 0; c < 3; c++) apart = Math.max(apart, Math.abs(onGpu[i + c]! - onCpu[i + c]!));
      if ([0, 1, 2].every((c) => Math.abs(onGpu[i + c]! - bare[i + c]!) < 3)) continue;
      const [x, y] = [((i / 4) % 320) / 320, Math.floor(i / 4 / 320) / 180];
      [left, right, top, bottom] = [Math.min(left, x), Math.max(right, x), Math.min(top, y), Math.max(bottom, y)];
      if (onGpu[i]! > 250 && onGpu[i + 1]! < 5 && onGpu[i + 2]! < 5) red++;
    }
    const hard = decideAll(
      [hit('h', 's', 40 / 30)],
      'kept',
    )({ ...plain, accents: [punchAccent()], rules: [shotRule()] });
    const shields = [{ id: 'f', region: { x: 0.6, y: 0.1, w: 0.3, h: 0.3 }, soft: 0 }];
    const shielded = { ...hard, sources: hard.sources.map((source) => ({ ...source, shields })) };
    const [moved, held] = [await read(hard, 'gpu'), await read(shielded, 'gpu')];
    const off = (of: Uint8ClampedArray): number => {
      let most = 0;
      for (let y = 24; y < 66; y++)
        for (let x = 200; x < 280; x++)
          for (let c = 0; c < 3; c++)
            most = Math.max(most, Math.abs(of[4 * (y * 320 + x) + c]! - bare[4 * (y * 320 + x) + c]!));
      return most;
    };
    return { box: [left, top, right, bottom], red, apart, moved: off(moved), shielded: off(held) };
  },

  /**
   * A frame whose subject is a box in its middle, under accents that act on what is behind it, or on the subject: how far
   * box and rest are from the plain frame at the most, by both renderers, and how far these are apart.
   */
  async subjectKept(url: string, acts: 'subject' | 'behind', effect: string, params: Record<string, number>) {
    const about = await describeMedia({ url }, 'It');
    const corner = (x: number, y: number) => ({ x, y, smooth: false });
    const points = [corner(0.3, 0.3), corner(0.7, 0.3), corner(0.7, 0.7), corner(0.3, 0.7)];
    const plain = oneClip({ ...about, audio: [] });
    const subject = { paths: [{ id: 'p', does: 'adds' as const, keys: [{ t: 0, points }] }], grow: 0, soft: 0 };
    const accent = { ...punchAccent(), acts, effects: [{ ...punchAccent().effects[0]!, effect, params, region: [] }] };
    const montage: Montage = decideAll(
      [hit('h', 's', 40 / 30)],
      'kept',
    )({
      ...plain,
      sources: plain.sources.map((source) => ({ ...source, subject })),
      accents: [accent],
      rules: [shotRule()],
    });
    const read = (of: Montage, renderer: 'gpu' | 'cpu') => readSmall(url, of, renderer);
    const [bare, gpu, cpu] = [await read(plain, 'gpu'), await read(montage, 'gpu'), await read(montage, 'cpu')];
    const most = (a: Uint8ClampedArray, b: Uint8ClampedArray, within: (x: number, y: number) => boolean): number => {
      let off = 0;
      for (let y = 0; y < 180; y++)
        for (let x = 0; x < 320; x++)
          if (within(x, y))
            for (let c = 0; c < 3; c++)
              off = Math.max(off, Math.abs(a[4 * (y * 320 + x) + c]! - b[4 * (y * 320 + x) + c]!));
      return off;
    };
    // Three pixels of edge belong to neither.
    const inBox = (x: number, y: number): boolean => x > 99 && x < 220 && y > 57 && y < 122;
    const beside = (x: number, y: number): boolean => x < 93 || x > 227 || y < 51 || y > 129;
    const { blob } = await exportToMemory(montage, new Map([['s', { url }]]), 'none');
    const media = await openMedia({ blob });
    let exported = 0;
    let at = 0;
    for await (const sample of new VideoSampleSink(media.video!).samples()) {
      const frame = await takeFrame(sample);
      if (at++ !== 40) continue;
      const [w, h] = [frame.width, frame.height];
      let sum = 0;
      let count = 0;
      for (let y = Math.round(0.34 * h); y < 0.66 * h; y++)
        for (let x = Math.round(0.34 * w); x < 0.66 * w; x++, count++) {
          const i = 4 * (Math.floor((y / h) * 180) * 320 + Math.floor((x / w) * 320));
          const luma = 16 + (65.738 * bare[i]! + 129.057 * bare[i + 1]! + 25.064 * bare[i + 2]!) / 256;
          sum += Math.abs(frame.data[y * w + x]! - luma);
        }
      exported = sum / count;
    }
    media.input.dispose();
    return {
      subject: most(gpu, bare, inBox),
      behind: most(gpu, bare, beside),
      apart: most(gpu, cpu, () => true),
      exported,
    };
  },

  /** The box of the pixels that a title changes in a 9:16 version, shares of its picture; and whether it is said to be whole there. */
  async titleInTall(url: string, change: Partial<Title>) {
    const about = await describeMedia({ url }, 'It');
    const plain = oneClip({ ...about, audio: [] });
    const title = { ...DEFAULT_TITLE, id: 't', text: 'HARBOUR', comes: 'cut', goes: 'cut', colour: '#ff0000' } as const;
    const format = { id: 'tall', name: '9:16', width: 180, height: 320, fit: 'fill' as const, fits: {} };
    const own = { ...plain, formats: [format], titles: [{ ...title, outline: 0, shadow: false, ...change }] };
    const tall = inFormat(own, 'tall');
    const size = { plain: false, width: 180, height: 320 };
    const read = async (of: Montage) => {
      const server = new FrameServer('cpu');
      await server.setMontage(of, {});
      await server.setMedia('s', { url });
      const { titles } = planner(of, mediaIndex(of.sources), EFFECTS).at(40);
      const got = { rgba: await server.read(40, size), whole: await server.whole(titles, 180, 320) };
      await server.close();
      return got;
    };
    const { titles: _, ...bareMontage } = tall;
    const [bare, drawn] = [await read(bareMontage), await read(tall)];
    let [left, top, right, bottom] = [1, 1, 0, 0];
    for (let i = 0; i < bare.rgba.length; i += 4) {
      if ([0, 1, 2].every((c) => Math.abs(drawn.rgba[i + c]! - bare.rgba[i + c]!) < 30)) continue;
      const [x, y] = [((i / 4) % 180) / 180, Math.floor(i / 4 / 180) / 320];
      [left, right, top, bottom] = [Math.min(left, x), Math.max(right, x), Math.min(top, y), Math.max(bottom, y)];
    }
    return { left, top, right, bottom, whole: drawn.whole[0]! };
  },

  /**
   * A frame with an accent that draws in one corner alone, on what is behind its subject or on the subject: how far the
   * rest of it is from the plain frame, by each renderer.
   */
  async untouched(url: string, subject: NonNullable<Source['subject']>, acts: 'subject' | 'behind') {
    const about = await describeMedia({ url }, 'It');
    const plain = oneClip({ ...about, audio: [] });
    const region: RegionShape[] = [
      { id: 'r', kind: 'box', combine: 'add', invert: false, params: { x: -70, y: -40, w: 20, h: 10, soft: 0 } },
    ];
    const use = { ...punchAccent().effects[0]!, effect: 'punch', params: { zoom: 160 }, region };
    const montage: Montage = decideAll(
      [hit('h', 's', 40 / 30)],
      'kept',
    )({
      ...plain,
      sources: plain.sources.map((source) => ({ ...source, subject })),
      accents: [{ ...punchAccent(), acts, effects: [use] }],
      rules: [shotRule()],
    });
    const off = async (renderer: 'gpu' | 'cpu') => {
      const [bare, drawn] = [await readSmall(url, plain, renderer), await readSmall(url, montage, renderer)];
      let [rest, corner] = [0, 0];
      for (let y = 0; y < 180; y++)
        for (let x = 0; x < 320; x++)
          for (let c = 0; c < 3; c++) {
            const by = Math.abs(bare[4 * (y * 320 + x) + c]! - drawn[4 * (y * 320 + x) + c]!);
            if (x < 70 && y < 34) corner = Math.max(corner, by);
            else rest = Math.max(rest, by);
          }
      return { rest, corner };
    };
    return { gpu: await off('gpu'), cpu: await off('cpu') };
  },

  async frames(url: string, wanted: number[], budget?: number) {
    const about = await describeMedia({ url }, 'It');
    const { rate, count, first } = about.video!;
    const times = about.starts ? listedTimes(about.starts, about.lastDuration) : regularTimes(rate, count, first);
    const reader = await FrameReader.open({ url }, times, 'It', budget);
    const got: { number: number; ms: number; width: number; height: number }[] = [];
    for (const index of wanted) {
      const began = performance.now();
      const frame = await reader.get(index);
      const ms = performance.now() - began;
      got.push({ number: numberOf(frame), ms, width: frame.width, height: frame.height });
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
    const bytes = draw().read(
      { picture: { yuv, rotation, aspect: width! / height!, framed: { fit: 'fit' } }, others: [], passes: [] },
      width! & ~1,
      height! & ~1,
    );
    media.input.dispose();
    const mean = [0, 0, 0];
    for (let i = 0; i < bytes.length; i++) if (i % 4 < 3) mean[i % 4]! += bytes[i]! / (bytes.length / 4);
    return { mean, width, height, bytes: whole ? [...bytes] : null };
  },

  async hits(url: string, sensitivity: number | null = null) {
    const about = await describeMedia({ url }, 'It');
    const { signals } = await analyse(
      { url },
      { name: 'It', tracks: about.audio.length ? [0] : [], picture: about.video !== null, duration: about.duration },
      { progress: () => undefined },
    );
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
    const partial = analyse(
      { url },
      options,
      {
        progress: () => undefined,
        partial(signals, checkpoint) {
          frames = signals.picture?.times.length ?? 0;
          if (frames < 50) return;
          stop.abort();
          void pack(checkpoint).then((packed) => (kept = packed));
        },
      },
      stop.signal,
      null,
      0,
    );
    const cut = await partial.then(
      () => false,
      () => true,
    );
    while (!kept) await new Promise((resolve) => setTimeout(resolve, 10));
    const again = await analyse(
      { url },
      options,
      { progress: () => undefined },
      undefined,
      await unpack<Checkpoint>(kept),
    );
    /** Largest difference of each array, relative to its largest value; infinite where lengths differ. */
    const apart = (a: object, b: object): [string, number][] =>
      Object.entries(a)
        .filter(([, value]) => ArrayBuffer.isView(value))
        .map(([name, value]) => {
          const [x, y] = [value as Float64Array, (b as Record<string, Float64Array>)[name]!];
          let [far, most] = [0, 1e-9];
          for (let i = 0; i < x.length; i++) {
            far = Math.max(far, Math.abs(x[i]! - y[i]!));
            most = Math.max(most, Math.abs(x[i]!));
          }
          return [name, x.length === y.length ? far / most : Infinity];
        });
    return {
      cut,
      frames,
      all: whole.signals.picture!.times.length,
      sound: Object.fromEntries(apart(whole.signals.sounds[0]!, again.signals.sounds[0]!)),
      picture: Object.fromEntries(apart(whole.signals.picture!, again.signals.picture!)),
    };
  },

  /** Bytes in memory and compressed, and whether they come back as they were. */
  async packed(url: string) {
    const about = await describeMedia({ url }, 'It');
    const { signals } = await analyse(
      { url },
      { name: 'It', tracks: about.audio.length ? [0] : [], picture: about.video !== null, duration: about.duration },
      { progress: () => undefined },
    );
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
  async mix(
    segments: { url: string; track: number; at: number; in: number; out: number; gain: number }[],
    seconds: number,
  ) {
    const mixer = mixerOf(
      segments.map((s) => ({ ...s, source: s.url })),
      (url) => ({ url }),
    );
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
      if (Math.abs(v) > 0.05 && t - (onsets.at(-1)?.[0] ?? -1) > 0.1)
        onsets.push([t, Math.max(...left.subarray(i, i + 96).map(Math.abs))]);
    });
    return { onsets, seam, same: left.every((v, i) => Math.abs(v - right[i]!) < 1e-3) };
  },

  /**
   * What the mixer gives of a track against one continuous decode of it: the largest residue in any window of 20 ms, in
   * decibels of that window's level, read on from the beginning, from a seek, and in pieces of a frame.
   */
  async continuity(url: string) {
    const truth = await continuousDecode({ url });
    const seconds = Math.floor(truth.length / 48000);
    const read = async (from: number, chunk: number): Promise<number> => {
      const mixer = mixerOf([{ source: 's', track: 0, at: 0, in: 0, out: seconds, gain: 1 }], () => ({ url }));
      let worst = -Infinity;
      for (let t = Math.round(from * 48000); t + chunk <= seconds * 48000 - 4800; t += chunk) {
        const [left] = await mixer.read(t / 48000, chunk);
        worst = Math.max(worst, residue(left, truth.subarray(t, t + chunk)));
      }
      await mixer.close();
      return worst;
    };
    return { on: await read(0, 24000), seek: await read(1.73, 9600), short: await read(0.5, 1600) };
  },

  /**
   * An export with a file as its music against an export with the file's continuous decode as its music: the largest
   * residue in any window of 20 ms. What the output's own codec changes is the same in both.
   */
  async exportedSound(footage: string, music: string, sound: 'aac' | 'opus') {
    const about = await describeMedia({ url: footage }, 'It');
    const heard = await describeMedia({ url: music }, 'It');
    const truth = await continuousDecode({ url: music });
    const right = await continuousDecode({ url: music }, 1);
    const exported = async (location: MediaLocation, audio: Source['audio']) => {
      const montage = oneClip(about, [{ id: 'm', name: 'Music', duration: heard.duration, audio, gain: 0.8 }]);
      const locations = new Map<string, MediaLocation>([
        ['s', { url: footage }],
        ['m', location],
      ]);
      return continuousDecode({ blob: (await exportToMemory(montage, locations, sound)).blob });
    };
    const wave = floatWave([truth, right], 48000);
    const [own, reference] = [
      await exported({ url: music }, heard.audio),
      await exported({ blob: wave }, (await describeMedia({ blob: wave }, 'Reference')).audio),
    ];
    const length = Math.min(own.length, truth.length) - 9600;
    let [cross, power] = [0, 0];
    for (let i = 4800; i < length; i++) {
      cross += own[i]! * truth[i]!;
      power += truth[i]! ** 2;
    }
    return { gain: cross / power, worst: residue(own.subarray(0, length), reference.subarray(0, length)) };
  },

  /** Left and right at full scale for each channel alone: what a file of several channels is mixed down to. */
  async downmixed(url: string, seconds: number) {
    const mixer = mixerOf([{ source: 's', track: 0, at: 0, in: 0, out: seconds, gain: 1 }], () => ({ url }));
    const [left, right] = await mixer.read(0, Math.round(seconds * 48000));
    await mixer.close();
    const level = (plane: Float32Array): number => Math.sqrt(plane.reduce((sum, v) => sum + v * v, 0) / plane.length);
    return [level(left), level(right)];
  },

  /** The beat grid of a file's sound. */
  async grid(url: string) {
    const about = await describeMedia({ url }, 'It');
    const { signals } = await analyse(
      { url },
      { name: 'It', tracks: [0], picture: false, duration: about.duration },
      { progress: () => undefined },
    );
    const began = performance.now();
    return { ...beatGrid(signals.sounds[0]!), has: hasBeat(signals.sounds[0]!), ms: performance.now() - began };
  },

  /** First samples above a tenth of full scale after each silence, seconds; and all frames' mean luma. */
  async read(url: string) {
    const media = await openMedia({ url });
    const clicks: number[] = [];
    let quietSince = -1;
    if (media.audio[0])
      for await (const block of soundBlocks(media, 0)) {
        const samples = mono(block);
        samples.forEach((v, i) => {
          const t = block.t + i / block.sampleRate;
          if (Math.abs(v) > 0.1) {
            if (t - quietSince > 0.1) clicks.push(t);
            quietSince = t;
          }
        });
      }
    const frames: { t: number; mean: number; format: string | null; range: boolean | null; matrix: string | null }[] =
      [];
    for await (const sample of new VideoSampleSink(media.video!).samples()) {
      const { timestamp: t, format, colorSpace } = sample;
      const yuv = await takeFrame(sample);
      const luma = yuv.data.subarray(0, yuv.width * yuv.height);
      frames.push({
        t,
        format,
        range: colorSpace.fullRange,
        matrix: colorSpace.matrix,
        mean: luma.reduce((s, v) => s + v, 0) / luma.length,
      });
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

  /** Mean luma (0-255) of boxes, in shares of the picture, in each of some frames. */
  async boxLuma(url: string, frames: number[], boxes: Region[]) {
    const media = await openMedia({ url });
    const result: number[][] = [];
    let at = 0;
    for await (const sample of new VideoSampleSink(media.video!).samples()) {
      const frame = await takeFrame(sample);
      if (frames.includes(at++)) {
        result.push(
          boxes.map(({ x, y, w, h }) => {
            let sum = 0;
            let n = 0;
            for (let j = Math.floor(y * frame.height); j < (y + h) * frame.height; j++)
              for (let i = Math.floor(x * frame.width); i < (x + w) * frame.width; i++, n++)
                sum += frame.data[j * frame.width + i]!;
            return sum / n;
          }),
        );
      }
    }
    return result;
  },
};

export type Parts = typeof parts;
declare global {
  interface Window {
    parts: Parts;
  }
}
window.parts = parts;
