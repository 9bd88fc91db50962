/** The preview's thread: frame access and renderer behind one door. */
import { boxOf } from '../../core/subject/box.ts';
import type { Brushed, ColourTable, Lane, Montage, Point, Region } from '../../core/document/types.ts';
import { seedOf } from '../../core/base/hash.ts';
import {
  flows,
  planner,
  type Audition,
  type FramePlan,
  type PlanOptions,
  type Planner,
  type PlannedPicture,
} from '../../core/accents/plan.ts';
import { momentOf } from '../../core/accents/layers.ts';
import type { PlannedTitle } from '../../core/accents/titles.ts';
import { mixOf } from '../../core/sound/sound-plan.ts';
import type { Luma } from '../../core/motion/field.ts';
import { applied } from '../../core/base/similarity.ts';
import { OutlineTracker } from '../../core/subject/follow.ts';
import { BRIDGED, MatteCarrier, SURE } from '../../core/subject/carry.ts';
import { cleaned } from '../../core/subject/clean.ts';
import { withoutSubject } from '../../core/subject/fill.ts';
import { grown, seedsOf } from '../../core/subject/grow.ts';
import { toBytes } from '../../core/subject/pieces.ts';
import { workingOf, type Working } from '../../core/subject/working.ts';
import { matteOf, mattePicture } from '../../core/subject/matte.ts';
import { madeFrame, mixedFrame, motionBetween, SHOT, type Motion } from '../../core/motion/made.ts';
import { mediaIndex, type MediaIndex, type Mixed } from '../../core/timeline/timeline.ts';
import { timesVersion } from '../../core/timeline/frame-times.ts';
import { greyOf, type Grey } from '../../core/finding/focus/grey.ts';
import { boxAround, movingForeground, proposeFocus, PROPOSE_SIDE } from '../../core/finding/focus/propose.ts';
import { PointTracker, TRACK_SIDE, type Tracked } from '../../core/finding/focus/track.ts';
import { FlashCounter, type FlashCount } from '../../core/accents/flashes.ts';
import { luminance, toLinear } from '../../core/base/colour.ts';
import { displacement } from '../../effects/compose.ts';
import { EFFECTS } from '../../effects/index.ts';
import { cancelled, EngineError } from '../errors.ts';
import { FrameReader } from '../media/frames.ts';
import { Mixer } from '../media/mixer.ts';
import type { MediaLocation } from '../media/open.ts';
import { seenPicture, StillReader } from '../media/still.ts';
import { listedIndex, type ListedStarts } from '../media/starts.ts';
import { evened, type YuvFrame } from '../media/yuv.ts';
import type { Drawing, FrameRenderer, Picture } from '../render/frame-renderer.ts';
import { isWhole, titleAlone, titleFonts } from '../render/stamps.ts';
import { chooseRenderer, type RendererChoice } from '../render/choose.ts';

export interface ShowOptions {
  readonly plain: boolean;
  readonly width: number;
  readonly height: number;
  readonly audition?: Audition | undefined;
  /** Quicker, with fewer moments of an open shutter; a frame that is kept in full is shown all the same. */
  readonly draft?: boolean | undefined;
  /** Left of this share of the width the plain frame is shown, for comparison. */
  readonly line?: number | undefined;
  /** The subject's matte, or the subject before black, in place of all. */
  readonly subject?: PlanOptions['subject'];
  /** Layers that are left out for looking. */
  readonly hidden?: PlanOptions['hidden'];
}

/** What a stretch of frames does to the eye. */
export interface Measured {
  /** One for each frame: how far the picture is thrown, in frame heights, and its mean relative luminance. */
  readonly frames: readonly { readonly displacement: number; readonly brightness: number }[];
  readonly flashes: FlashCount;
}

/** Size of the pictures that flashes are counted on. */
const MEASURE = { width: 64, height: 36 };

const tableKeys = new WeakMap<ColourTable, number>();
function tableKey(table: ColourTable): number {
  let key = tableKeys.get(table);
  if (key === undefined) tableKeys.set(table, (key = seedOf(table.values)));
  return key;
}

/** What a finished frame is made of: two frames with the same key look the same. */
function frameKey(plan: FramePlan, { width, height }: ShowOptions): string {
  return JSON.stringify(
    [width, height, plan.picture, plan.others, plan.passes, plan.titles],
    (name, value: unknown) => {
      // A table is long: its fingerprint stands for it.
      if (name === 'table' && value) return tableKey(value as ColourTable);
      const { at, open } = (value ?? {}) as { at?: unknown; open?: unknown };
      // An open shutter is told by what it sees at three moments.
      return typeof at === 'function' && typeof open === 'number'
        ? { ...(value as object), at: [-0.5, 0, 0.5].map((share) => (at as (offset: number) => unknown)(share * open)) }
        : value;
    },
  );
}

/** Pairs whose movement is kept, and milliseconds that a frame stands mixed before it is made: it may be passed over. */
const MOST_MOTIONS = 4;
const BEFORE_MAKING = 60;

/** Frames before and after a stroked one that movement is asked of. */
const GROW_FRAMES = 6;

/** Frames whose mattes are kept: those that are drawn at once. */
const MOST_MATTES = 8;
const MOST_TITLES = 4;

/** Milliseconds after which a lost graphics context is not waited for any longer. */
const LOST = 4000;

/** Bytes of kept frames for each open source, and how many sources stay open: 1 GB at the most. */
const FRAME_BUDGET = 256 << 20;
const MOST_OPEN = 4;

/** Where an outline is on a frame, and which share of what was followed in it agrees, 0-1. */
interface FollowedOutline {
  readonly frame: number;
  readonly points: readonly Point[];
  readonly sure: number;
}

/** Is told which share is done; where it answers false, the work ends with what was found so far. */
export type Going = (share: number) => boolean | Promise<boolean>;

/** Frames, pictures and mixed sound of one montage; the exporter uses it as the preview does. */
export class FrameServer {
  private montage: Montage | null = null;
  private media: MediaIndex = new Map();

  /** Which frames its sources have. */
  get index(): MediaIndex {
    return this.media;
  }

  private plans: Planner | null = null;
  private readonly locations = new Map<string, MediaLocation>();
  private readonly readers = new Map<string, Promise<FrameReader | StillReader>>();
  /** What each source's frames are, by source id: content and list of frames. */
  private versions: ReadonlyMap<string, string> = new Map();
  private readonly unreadableBefore = new Map<string, number>();
  private mixer: Mixer | null = null;
  private renderer: FrameRenderer | null = null;
  private canvas: OffscreenCanvas | null = null;
  private last: { frame: number; options: ShowOptions } | null = null;
  /** Since when there is no graphics context, milliseconds; null while there is one. */
  private lostAt: number | null = null;
  private audition: Audition | undefined;
  private auditionKey: string | undefined;

  constructor(private choice: RendererChoice = 'auto') {}

  /** Takes the canvas that frames are shown on, and says what draws there: a canvas is drawn on by one renderer for good. */
  attach(canvas: OffscreenCanvas, choice = this.choice): FrameRenderer['kind'] {
    this.canvas = canvas;
    this.choice = choice;
    this.renderer = null;
    return this.draw.kind;
  }

  private get draw(): FrameRenderer {
    this.renderer ??= chooseRenderer(this.choice, this.canvas, () => {
      if (this.last) void this.show(this.last.frame, this.last.options);
    });
    return this.renderer;
  }

  /** What draws the frames. */
  get drawnBy(): FrameRenderer['kind'] {
    return this.draw.kind;
  }

  async setMedia(source: string, location: MediaLocation | null): Promise<void> {
    if (location) this.locations.set(source, location);
    else this.locations.delete(source);
    await this.dropReader(source);
    await this.dropMixer();
  }

  private async dropReader(source: string): Promise<void> {
    const opening = this.readers.get(source);
    this.readers.delete(source);
    const reader = await opening?.catch(() => null);
    if (!reader) return;
    if (reader.unreadable.size)
      this.unreadableBefore.set(source, (this.unreadableBefore.get(source) ?? 0) + reader.unreadable.size);
    await reader.close();
  }

  private async dropMixer(): Promise<void> {
    const mixer = this.mixer;
    this.mixer = null;
    await mixer?.close();
  }

  private listed: ListedStarts = {};

  /**
   * Opens a montage, or takes a change of the open one: a montage of hours is not copied over for every step of a drag.
   * @param listed the frames of variable sources; those known before where absent
   */
  async setMontage(change: Montage | Partial<Montage>, listed = this.listed): Promise<void> {
    const old = this.montage;
    const montage = { ...old, ...change } as Montage;
    this.montage = montage;
    this.listed = listed;
    this.media = mediaIndex(montage.sources, listedIndex(listed));
    this.plans = planner(montage, this.media, EFFECTS);
    // What comes over from another thread is made of new objects: sources are the same by what they say.
    // Frame numbers of another list are other frames.
    const version = (id: string, fingerprint: string): string => {
      const times = this.media.get(id);
      return `${fingerprint} ${times ? timesVersion(times) : ''}`;
    };
    const before = this.versions;
    this.versions = new Map(montage.sources.map(({ id, fingerprint }) => [id, version(id, fingerprint)]));
    for (const { id } of old?.sources ?? []) if (before.get(id) !== this.versions.get(id)) await this.dropReader(id);
    // Where accents are heard, or change how fast clips run, all that lays them is.
    const heard = ({
      clips,
      music,
      settings,
      sources,
      accents,
      rules,
      overrides,
      byHand,
      beds,
      hits,
    }: Montage): string =>
      JSON.stringify([
        [clips, music, settings, sources],
        accents.some(({ ramp, sounds, lanes }) => ramp ?? sounds ?? lanes) && [
          accents,
          rules,
          overrides,
          byHand,
          beds,
          hits,
        ],
      ]);
    if (!old || heard(old) !== heard(montage)) await this.dropMixer();
  }

  /** Frames drawn so far, without those that were kept. */
  get framesDrawn(): number {
    return this.draw.drawn;
  }

  get planner(): Planner {
    if (!this.plans) throw new EngineError('nothing-to-do', 'No montage is open.');
    return this.plans;
  }

  private reader(source: string): Promise<FrameReader | StillReader> {
    let reader = this.readers.get(source);
    if (!reader) {
      const location = this.locations.get(source);
      const times = this.media.get(source);
      const about = this.montage?.sources.find((s) => s.id === source);
      const name = about?.name ?? 'The source';
      if (!location) return Promise.reject(new EngineError('media-missing', `The file of ${name} is missing.`));
      if (!times) return Promise.reject(new EngineError('media-missing', `The frames of ${name} are not listed yet.`));
      reader = about?.still ? StillReader.open(location, name) : FrameReader.open(location, times, name, FRAME_BUDGET);
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

  /** Frames of each open source that could not be read so far, by source id; the frame before was shown for them. */
  async unreadable(): Promise<ReadonlyMap<string, number>> {
    const counts = new Map(this.unreadableBefore);
    for (const [source, reader] of this.readers) {
      const count = (await reader.catch(() => null))?.unreadable.size ?? 0;
      if (count) counts.set(source, (counts.get(source) ?? 0) + count);
    }
    return counts;
  }

  /** Movement between pairs of frames, kept for their other moments. */
  private readonly motions = new Map<YuvFrame, { readonly other: YuvFrame; readonly motion: Motion }>();

  /** @param around the frames before the one and after the other, where there are any */
  private motion(one: YuvFrame, other: YuvFrame, [before, after]: readonly (YuvFrame | null)[] = []): Motion {
    const known = this.motions.get(one);
    if (known?.other === other) return known.motion;
    const luma = ({ width, height, data }: YuvFrame): Luma => ({
      width,
      height,
      data: data.subarray(0, width * height),
    });
    const motion = motionBetween(luma(one), luma(other), {
      ...(before && { before: luma(before) }),
      ...(after && { after: luma(after) }),
    });
    this.motions.set(one, { other, motion });
    const [oldest] = this.motions.keys();
    if (this.motions.size > MOST_MOTIONS) this.motions.delete(oldest!);
    return motion;
  }

  /** The frame between two. `around`: those before and after them, for one that is made by movement. */
  private between(
    one: YuvFrame,
    other: YuvFrame,
    { share }: Mixed,
    around: readonly (YuvFrame | null)[] | null,
  ): YuvFrame {
    // Sizes can differ from what their files say of themselves.
    if (one.width !== other.width || one.height !== other.height) return share < 0.5 ? one : other;
    if (!around) return mixedFrame(one, other, share);
    return { ...madeFrame(one, other, this.motion(one, other, around), share), colour: one.colour };
  }

  /** The frames before and after two neighbours of one source, in the direction they are shown; null past its ends. */
  private async around(reader: FrameReader | StillReader, one: number, other: number): Promise<(YuvFrame | null)[]> {
    const frames = [2 * one - other, 2 * other - one];
    return Promise.all(frames.map((frame) => (frame >= 0 && frame < reader.count ? reader.get(frame) : null)));
  }

  /** Mattes of frames, by what they were made of: the frame without its subject needs the same one. */
  private readonly mattes = new Map<string, Float32Array>();

  /** The matte of a frame's subject, or the frame without it or with it cleaned. */
  private parted(frame: YuvFrame, planned: PlannedPicture): YuvFrame {
    const { source: id, frame: index, mixed, shows } = planned;
    const source = this.montage?.sources.find((one) => one.id === id);
    const times = this.media.get(id);
    if (!source?.subject || !times || !shows) return frame;
    const key = JSON.stringify([this.versions.get(id), id, index, mixed, shows.of]);
    let mask = this.mattes.get(key);
    if (!mask) {
      mask = matteOf(source.subject, frame, momentOf(planned, times), source.video?.rotation ?? 0);
      this.mattes.set(key, mask);
      const [oldest] = this.mattes.keys();
      if (this.mattes.size > MOST_MATTES) this.mattes.delete(oldest!);
    }
    if (shows.what === 'clean') return cleaned(frame, mask, source.subject);
    return shows.what === 'matte' ? mattePicture(mask, frame) : withoutSubject(frame, mask);
  }

  /** Whether the shots on both sides of a clip's beginning are alike enough to flow into one another; null: there is no such place. */
  async flowsInto(clip: string): Promise<boolean | null> {
    const { spans } = this.planner.timeline;
    const at = spans.findIndex((span) => span.clip.id === clip);
    const [before, after] = [spans[at - 1], spans[at]];
    const [one, other] = [before, after].map((span) =>
      this.montage?.sources.find(({ id }) => id === span?.clip.source),
    );
    if (!before || !after || !flows(one, other)) return null;
    const { timeline } = this.planner;
    const frames = [
      await (await this.reader(one!.id)).get(timeline.sourceFrame(before, before.end - 1)),
      await (await this.reader(other!.id)).get(timeline.sourceFrame(after, after.first)),
    ] as const;
    return this.motion(...frames).agreed >= SHOT;
  }

  private async pictureOf(planned: PlannedPicture | null, quick = false): Promise<Picture | null> {
    if (planned?.title) return this.titlePicture(planned, planned.title);
    const video = planned && this.montage?.sources.find((s) => s.id === planned.source)?.video;
    if (!planned || !video) return null;
    const reader = await this.reader(planned.source);
    const own = await reader.get(planned.frame);
    const { mixed } = planned;
    const other = mixed && (await (mixed.source ? await this.reader(mixed.source) : reader).get(mixed.frame));
    const made = mixed?.moved && !quick;
    const around = made ? (mixed.source ? [] : await this.around(reader, planned.frame, mixed.frame)) : null;
    const whole = other ? this.between(own, other, mixed, around) : own;
    const clear = planned.shows?.what === 'clear' && reader instanceof StillReader;
    const read = clear ? mattePicture(reader.seen, own) : planned.shows ? this.parted(whole, planned) : whole;
    const { width, height } = this.montage!.settings;
    const yuv = video.rotation === 0 ? evened(read, width, height) : read;
    return {
      yuv,
      rotation: video.rotation,
      aspect: yuv === read ? video.width / video.height : width / height,
      framed: planned,
    };
  }

  /** Titles as pictures, by what they are: each is asked for twice on a frame, and mostly on the next one again. */
  private readonly titles = new Map<string, ReturnType<typeof seenPicture>>();

  /** A title as large as the montage, or how far it is seen. */
  private async titlePicture(planned: PlannedPicture, title: PlannedTitle): Promise<Picture> {
    const { width, height } = this.montage!.settings;
    const key = JSON.stringify([title, width, height]);
    let drawn = this.titles.get(key);
    if (!drawn) {
      await titleFonts(this.montage!.typefaces);
      this.titles.set(key, (drawn = seenPicture(titleAlone(title, { width, height }), width, height)));
      const [oldest] = this.titles.keys();
      if (this.titles.size > MOST_TITLES) this.titles.delete(oldest!);
    }
    const { frame, seen } = drawn;
    const yuv = planned.shows ? mattePicture(seen, frame) : frame;
    return { yuv, rotation: 0, aspect: width / height, framed: planned };
  }

  /** All that a planned frame needs to be drawn. */
  async drawing(plan: FramePlan, quick = false): Promise<Drawing> {
    const picture = await this.pictureOf(plan.picture, quick);
    const others: (Picture | null)[] = [];
    for (const other of plan.others) others.push(await this.pictureOf(other, quick));
    const titles = plan.titles.filter(({ laid }) => !laid);
    if (titles.length) await titleFonts(this.montage!.typefaces);
    return { picture, others, passes: plan.passes, titles };
  }

  private plan(
    frame: number,
    { plain, audition, subject, hidden }: Pick<ShowOptions, 'plain' | 'audition' | 'subject' | 'hidden'>,
  ): FramePlan {
    // What comes over from another thread is another object every time: the same audition is kept.
    const key = audition && JSON.stringify(audition);
    if (key !== this.auditionKey) [this.audition, this.auditionKey] = [audition, key];
    return this.planner.at(frame, { plain, audition: this.audition, subject, hidden });
  }

  /**
   * Draws a frame onto the attached canvas; one made of the same as before comes from those kept. One that is made by
   * movement is shown mixed at once, and as it is to be when it is made, if nothing else is to be shown by then.
   */
  async show(frame: number, options: ShowOptions): Promise<void> {
    const { picture } = this.plan(frame, options);
    if (picture?.mixed?.moved && !options.draft && !this.draw.has(frameKey(this.plan(frame, options), options))) {
      await this.showNow(frame, { ...options, draft: true });
      await new Promise((resolve) => setTimeout(resolve, BEFORE_MAKING));
      if (this.last?.frame !== frame) return;
    }
    await this.showNow(frame, options);
  }

  private async showNow(frame: number, options: ShowOptions): Promise<void> {
    this.last = { frame, options };
    const wanted = [this.plan(frame, options)];
    if (options.line !== undefined && !options.plain)
      wanted.push(this.plan(frame, { plain: true, audition: options.audition }));
    const frames = [];
    for (const plan of wanted) {
      const key = frameKey(plan, options);
      const kept = [key, `draft ${key}`].find((one) => this.draw.has(one) && (options.draft || one === key));
      frames.push({
        key: kept ?? (options.draft ? `draft ${key}` : key),
        drawing: kept ? null : { ...(await this.drawing(plan, options.draft)), draft: options.draft },
      });
    }
    if (this.last.frame !== frame) return;
    if (!this.draw.ready) {
      this.lostAt ??= performance.now();
      if (performance.now() - this.lostAt > LOST)
        throw new EngineError('graphics-lost', 'The graphics unit is gone: pictures are drawn on the processor now.');
      return;
    }
    this.lostAt = null;
    this.draw.show(frames[0]!, options.width, options.height, frames[1] && { ...frames[1], line: options.line! });
  }

  private measuring = 0;

  /** Ends what {@link measure} looks through now. */
  stopMeasuring(): void {
    this.measuring++;
  }

  /** Looks through a stretch of frames, drawn small: for the scope and the count of flashes. */
  async measure(
    from: number,
    to: number,
    options: Pick<ShowOptions, 'audition' | 'plain'>,
    progress?: (share: number) => void,
  ): Promise<Measured> {
    const counter = new FlashCounter(MEASURE.width, MEASURE.height);
    const frames: { displacement: number; brightness: number }[] = [];
    const { count } = this.planner.timeline;
    const mine = this.measuring;
    for (let frame = Math.max(0, from); frame <= Math.min(to, count - 1); frame++) {
      if (this.measuring !== mine) throw cancelled();
      const plan = this.plan(frame, options);
      const rgba = this.draw.read({ ...(await this.drawing(plan, true)), draft: true }, MEASURE.width, MEASURE.height);
      counter.add({ time: plan.time, rgba });
      let light = 0;
      for (let i = 0; i < rgba.length; i += 4)
        light += luminance(toLinear(rgba[i]! / 255), toLinear(rgba[i + 1]! / 255), toLinear(rgba[i + 2]! / 255));
      frames.push({ displacement: displacement(plan.passes, MEASURE), brightness: light / (rgba.length / 4) });
      progress?.((frame - from + 1) / (to - from + 1));
    }
    return { frames, flashes: counter.count() };
  }

  /** RGBA of a frame at a size, rows top first. */
  async read(frame: number, options: ShowOptions): Promise<Uint8ClampedArray<ArrayBuffer>> {
    const plan = this.plan(frame, options);
    return this.draw.read(await this.drawing(plan), options.width, options.height);
  }

  /** The same for a drawing that is already at hand, as I420. */
  planes(drawing: Drawing, width: number, height: number): Promise<Uint8Array<ArrayBuffer>> {
    return this.draw.planes(drawing, width, height);
  }

  /** A small picture of a frame; one that would be made by movement is mixed. */
  async bitmap(frame: number, options: ShowOptions): Promise<ImageBitmap> {
    const { width, height } = options;
    const drawing = await this.drawing(this.plan(frame, options), true);
    return createImageBitmap(new ImageData(this.draw.read(drawing, width, height), width, height));
  }

  /** A frame of a source, grey, small and upright. */
  private async grey(source: string, frame: number, side: number): Promise<Grey> {
    const { width, height, data } = await (await this.reader(source)).get(frame);
    const rotation = this.montage?.sources.find(({ id }) => id === source)?.video?.rotation ?? 0;
    return greyOf(data, width, height, rotation, side);
  }

  /** The box of a source's subject on a frame, shares of the upright picture; null where there is none. */
  private async subjectBox(source: string, frame: number): Promise<Region | null> {
    const of = this.montage?.sources.find(({ id }) => id === source);
    const times = this.media.get(source);
    if (!of?.subject || !times) return null;
    const picture = await (await this.reader(source)).get(frame);
    const mask = matteOf(of.subject, picture, times.timeOf(frame), of.video?.rotation ?? 0);
    const bytes = Uint8Array.from(mask, (share) => 255 * share);
    const seen = greyOf(bytes, picture.width, picture.height, of.video?.rotation ?? 0, PROPOSE_SIDE);
    const box = boxOf(
      Float32Array.from(seen.data, (share) => Number(share > 127)),
      seen.width,
      seen.height,
      0,
      0,
    );
    const { width, height } = seen;
    return box && { x: box.left / width, y: box.top / height, w: box.w / width, h: box.h / height };
  }

  /**
   * Where something happens in a frame of a source, seen against the one before, and what is to be seen beside it: its
   * subject and the foreground that moves. Null where nothing stands out.
   */
  async proposeFocus(source: string, frame: number): Promise<{ focus: Point; around: Region | null } | null> {
    if (frame < 1) return null;
    const last = (await this.reader(source)).count - 1;
    const frames = [frame - 1, frame, frame + 1, frame + 2].filter((at) => at <= last);
    const greys: Grey[] = [];
    for (const at of frames) greys.push(await this.grey(source, at, PROPOSE_SIDE));
    const focus = proposeFocus(greys[0]!, greys[1]!);
    if (!focus) return null;
    return { focus, around: boxAround([movingForeground(greys), await this.subjectBox(source, frame)]) };
  }

  /** Follows a point of a frame both ways, as far as it is recognised between two frames, both inclusive; in their order. */
  async track(
    source: string,
    frame: number,
    point: Point,
    from: number,
    to: number,
    going?: Going,
  ): Promise<(Tracked & { readonly frame: number })[]> {
    const start = await this.grey(source, frame, TRACK_SIDE);
    const follow = async (step: 1 | -1, last: number): Promise<(Tracked & { readonly frame: number })[]> => {
      const tracker = new PointTracker(start, point);
      const found: (Tracked & { readonly frame: number })[] = [];
      for (let at = frame + step; step > 0 ? at <= last : at >= last; at += step) {
        const next = tracker.next(await this.grey(source, at, TRACK_SIDE));
        if (!next) break;
        found.push({ frame: at, ...next });
        if ((await going?.(Math.abs(at - frame) / Math.max(1, to - from))) === false) break;
      }
      return found;
    };
    const before = await follow(-1, from);
    return [...before.reverse(), { frame, ...point, like: 1 }, ...(await follow(1, to))];
  }

  /**
   * Follows an outline from a frame to another, as far as it is recognised.
   * @returns the outline on each frame after the first, in their order
   */
  async followOutline(
    source: string,
    frame: number,
    outline: readonly Point[],
    to: number,
    going?: Going,
  ): Promise<FollowedOutline[]> {
    const start = await this.grey(source, frame, TRACK_SIDE);
    const tracker = new OutlineTracker(start, outline);
    const aspect = start.width / start.height;
    const found: FollowedOutline[] = [];
    const step = to < frame ? -1 : 1;
    for (let at = frame + step; step > 0 ? at <= to : at >= to; at += step) {
      const moved = tracker.next(await this.grey(source, at, TRACK_SIDE));
      if (!moved) break;
      const place = (p: Point): Point => {
        const { x, y } = applied(moved, { x: p.x * aspect, y: p.y });
        return { x: x / aspect, y };
      };
      found.push({ frame: at, points: outline.map(place), sure: moved.sure });
      if ((await going?.(Math.abs(at - frame) / Math.max(1, Math.abs(to - frame)))) === false) break;
    }
    return found;
  }

  private async working(source: string, frame: number): Promise<Working> {
    return workingOf(await (await this.reader(source)).get(frame));
  }

  /**
   * Grows strokes over a frame to a matte.
   * @param before the matte that stood there, 0-255, one a pixel of the working picture; null: none did
   */
  async growMatte(
    source: string,
    frame: number,
    strokes: readonly Brushed['strokes'][number][],
    before: Uint8Array | null,
  ): Promise<{ readonly width: number; readonly height: number; readonly values: Uint8Array }> {
    const reader = await this.reader(source);
    const picture = await this.working(source, frame);
    const { width, height } = picture;
    const others: Working[] = [];
    for (const at of [frame - GROW_FRAMES, frame + GROW_FRAMES])
      if (at >= 0 && at < reader.count) others.push(await this.working(source, at));
    const rotation = this.montage?.sources.find(({ id }) => id === source)?.video?.rotation ?? 0;
    const kept = before?.length === width * height ? Float32Array.from(before, (value) => value / 255) : null;
    return { width, height, values: toBytes(grown(picture, seedsOf(strokes, rotation, width, height), kept, others)) };
  }

  /** The matte that was carried last, so that it goes on from there. */
  private carrier: { readonly source: string; at: number; readonly carrier: MatteCarrier } | null = null;

  /**
   * Carries a matte to the frames after it, or before it.
   * @param to the last frame
   * @returns those it was carried to, in their order; fewer where it went astray
   */
  async carryMatte(
    source: string,
    frame: number,
    values: Uint8Array,
    to: number,
  ): Promise<{ readonly frame: number; readonly values: Uint8Array }[]> {
    if (this.carrier?.source !== source || this.carrier.at !== frame)
      this.carrier = {
        source,
        at: frame,
        carrier: new MatteCarrier(
          await this.working(source, frame),
          Float32Array.from(values, (value) => value / 255),
        ),
      };
    const { carrier } = this.carrier;
    const found: { frame: number; values: Uint8Array }[] = [];
    let bridged = 0;
    const step = to < frame ? -1 : 1;
    // The next one is decoded while this one is worked on.
    const ahead = (at: number): Promise<Working> | null => {
      const coming = (step > 0 ? at <= to : at >= to) ? this.working(source, at) : null;
      coming?.catch(() => undefined);
      return coming;
    };
    let coming = ahead(frame + step);
    for (let at = frame + step; coming; at += step) {
      const picture = await coming;
      coming = ahead(at + step);
      const next = carrier.next(picture);
      if (next) {
        found.push({ frame: at, values: toBytes(next.mask) });
        bridged = next.sure >= SURE ? 0 : bridged + 1;
        if (bridged <= BRIDGED) continue;
      }
      // What went on as before without being found again is not known.
      this.carrier = null;
      return found.slice(0, Math.max(0, found.length - bridged));
    }
    this.carrier.at = to;
    return found;
  }

  /** For each of these titles whether all of its text is on a picture of a size. */
  async whole(titles: readonly PlannedTitle[], width: number, height: number): Promise<boolean[]> {
    await titleFonts(this.montage?.typefaces);
    return titles.map((title) => isWhole(title, { width, height }));
  }

  /** A source's frame by itself, in the montage's shape, whether or not the montage shows it. */
  async picture(planned: PlannedPicture, width: number, height: number): Promise<ImageBitmap> {
    const drawing: Drawing = { picture: await this.pictureOf(planned), others: [], passes: [] };
    return createImageBitmap(new ImageData(this.draw.read(drawing, width, height), width, height));
  }

  /** Mixed stereo sound at 48 kHz: `count` samples from sample `from` of the montage on. */
  async sound(
    from: number,
    count: number,
    audition?: Audition,
  ): Promise<[Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>]> {
    return this.mix(48000, audition).read(from / 48000, count);
  }

  private heardKey: string | undefined;

  /** The mixer of all that is heard, an audition in place of all accents. */
  mix(sampleRate: number, audition?: Audition): Mixer {
    const key = audition && JSON.stringify(audition);
    if (this.mixer?.sampleRate !== sampleRate || this.heardKey !== key) {
      void this.mixer?.close();
      this.mixer = this.newMixer(sampleRate, undefined, audition);
      this.heardKey = key;
    }
    return this.mixer;
  }

  /** @param only the one lane that is heard */
  newMixer(sampleRate: number, only?: Lane, audition?: Audition): Mixer {
    if (!this.montage) throw new EngineError('nothing-to-do', 'No montage is open.');
    const { planner: plans } = this;
    return new Mixer(
      mixOf(this.montage, plans.timeline, plans.sounding(audition)),
      (source) => this.locations.get(source),
      sampleRate,
      only,
    );
  }

  async close(): Promise<void> {
    for (const source of [...this.readers.keys()]) await this.dropReader(source);
    await this.dropMixer();
  }
}
