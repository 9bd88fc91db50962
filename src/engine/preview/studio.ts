/** The preview's thread: frame access and renderer behind one door. */
import type { Accent, Montage } from '../../core/montage/types.ts';
import { accentPasses, planner, type FramePlan, type Pass, type Planner } from '../../core/plan/plan.ts';
import { scaleAccent } from '../../core/rules/placements.ts';
import { soundPlan } from '../../core/plan/sound-plan.ts';
import { mediaIndex, type MediaIndex } from '../../core/plan/timeline.ts';
import { regularTimes } from '../../core/media/frame-times.ts';
import { EFFECTS } from '../../effects/index.ts';
import { EngineError } from '../errors.ts';
import { FrameReader } from '../media/frames.ts';
import { Mixer } from '../media/mixer.ts';
import type { MediaLocation } from '../media/open.ts';
import { listedIndex, type ListedStarts } from '../media/starts.ts';
import { Renderer, type Picture } from '../render/renderer.ts';

/** An accent being shaped, drawn as if it lay on `frame` whatever the rules say. */
export interface Audition {
  readonly accent: Accent;
  readonly frame: number;
  readonly intensity: number;
}

export interface ShowOptions {
  readonly plain: boolean;
  readonly width: number;
  readonly height: number;
  readonly audition?: Audition | undefined;
}

/** Bytes of kept frames for each open source, and how many sources stay open: 1 GB at the most. */
const FRAME_BUDGET = 256 << 20;
const MOST_OPEN = 4;

/** Frames, pictures and mixed sound of one montage; the exporter uses it as the preview does. */
export class Studio {
  private montage: Montage | null = null;
  private media: MediaIndex = new Map();
  private plans: Planner | null = null;
  private readonly locations = new Map<string, MediaLocation>();
  private readonly readers = new Map<string, Promise<FrameReader>>();
  private mixer: Mixer | null = null;
  private renderer: Renderer | null = null;
  private canvas: OffscreenCanvas | null = null;
  private last: { frame: number; options: ShowOptions } | null = null;

  attach(canvas: OffscreenCanvas): void {
    this.canvas = canvas;
    this.renderer = null;
  }

  private get draw(): Renderer {
    this.renderer ??= new Renderer(this.canvas ?? new OffscreenCanvas(16, 16), () => {
      if (this.last) void this.show(this.last.frame, this.last.options);
    });
    return this.renderer;
  }

  async setMedia(source: string, location: MediaLocation | null): Promise<void> {
    if (location) this.locations.set(source, location);
    else this.locations.delete(source);
    await this.dropReader(source);
    await this.dropMixer();
  }

  private async dropReader(source: string): Promise<void> {
    const reader = this.readers.get(source);
    this.readers.delete(source);
    await (await reader?.catch(() => null))?.close();
  }

  private async dropMixer(): Promise<void> {
    const mixer = this.mixer;
    this.mixer = null;
    await mixer?.close();
  }

  async setMontage(montage: Montage, listed: ListedStarts): Promise<void> {
    const old = this.montage;
    this.montage = montage;
    this.media = mediaIndex(montage.sources, listedIndex(listed));
    this.plans = planner(montage, this.media, EFFECTS);
    if (old && old.sources !== montage.sources) {
      for (const source of old.sources) if (!montage.sources.includes(source)) await this.dropReader(source.id);
    }
    if (old?.clips !== montage.clips || old.music !== montage.music || old.settings !== montage.settings || old.sources !== montage.sources) await this.dropMixer();
  }

  get planner(): Planner {
    if (!this.plans) throw new EngineError('nothing-to-do', 'No montage is open.');
    return this.plans;
  }

  private reader(source: string): Promise<FrameReader> {
    let reader = this.readers.get(source);
    if (!reader) {
      const location = this.locations.get(source);
      const times = this.media.get(source);
      const name = this.montage?.sources.find((s) => s.id === source)?.name ?? 'The source';
      if (!location) return Promise.reject(new EngineError('media-missing', `${name} is not at hand.`));
      reader = FrameReader.open(location, times ?? regularTimes({ num: 30, den: 1 }, 0), name, FRAME_BUDGET);
      this.readers.set(source, reader);
      reader.catch(() => this.readers.delete(source));
      const [oldest] = this.readers.keys();
      if (this.readers.size > MOST_OPEN && oldest) void this.dropReader(oldest);
    } else {
      // Used last, dropped last.
      this.readers.delete(source);
      this.readers.set(source, reader);
    }
    return reader;
  }

  async picture(plan: FramePlan): Promise<Picture | null> {
    if (!plan.picture) return null;
    const video = this.montage?.sources.find((s) => s.id === plan.picture!.source)?.video;
    if (!video) return null;
    const yuv = await (await this.reader(plan.picture.source)).get(plan.picture.frame);
    return { yuv, rotation: video.rotation, aspect: video.width / video.height, fit: plan.picture.fit };
  }

  private passes(plan: FramePlan, { plain, audition }: Pick<ShowOptions, 'plain' | 'audition'>): readonly Pass[] {
    if (plain) return [];
    if (!audition) return plan.passes;
    const line = this.planner.timeline;
    return accentPasses(scaleAccent(audition.accent, line.fps), plan.frame - audition.frame, audition.intensity, audition.accent.seed, line.fps, EFFECTS);
  }

  /** Draws a frame onto the attached canvas. */
  async show(frame: number, options: ShowOptions): Promise<void> {
    this.last = { frame, options };
    const plan = this.planner.at(frame);
    const picture = await this.picture(plan);
    if (this.last.frame !== frame || !this.draw.ready) return;
    this.draw.show(picture, this.passes(plan, options), options.width, options.height);
  }

  /** RGBA of a frame at a size, rows top first. */
  async read(frame: number, options: ShowOptions): Promise<Uint8ClampedArray<ArrayBuffer>> {
    const plan = this.planner.at(frame);
    return this.drawn(plan, await this.picture(plan), options);
  }

  /** The same for a plan and picture that are already at hand. */
  drawn(plan: FramePlan, picture: Picture | null, options: ShowOptions): Uint8ClampedArray<ArrayBuffer> {
    return this.draw.read(picture, this.passes(plan, options), options.width, options.height);
  }

  async bitmap(frame: number, options: ShowOptions): Promise<ImageBitmap> {
    return createImageBitmap(new ImageData(await this.read(frame, options), options.width, options.height));
  }

  /** Mixed stereo sound at 48 kHz from a montage time on. */
  async sound(from: number, seconds: number): Promise<[Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>]> {
    return this.mix(48000).read(from, Math.round(seconds * 48000));
  }

  mix(sampleRate: number): Mixer {
    if (!this.montage) throw new EngineError('nothing-to-do', 'No montage is open.');
    if (this.mixer?.sampleRate !== sampleRate) {
      this.mixer = new Mixer(soundPlan(this.montage, this.planner.timeline), (source) => this.locations.get(source), sampleRate);
    }
    return this.mixer;
  }

  async close(): Promise<void> {
    for (const source of [...this.readers.keys()]) await this.dropReader(source);
    await this.dropMixer();
  }
}
