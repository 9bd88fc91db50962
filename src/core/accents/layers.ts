/**
 * The layers of one frame: which pictures its passes read beside the one below, how a subject is parted from what is behind
 * it, and what is shown again where accents leave it alone. docs/layers.md has their order.
 */
import { toLinear } from '../base/colour.ts';
import { takenTo } from '../base/similarity.ts';
import type { Source, Subject } from '../document/types.ts';
import type { FrameTimes } from '../timeline/frame-times.ts';
import type { Framed } from '../timeline/framing.ts';
import type { MediaIndex, Mixed } from '../timeline/timeline.ts';
import type { EffectRegistry } from './effect-spec.ts';
import type { Pass, PassCopy } from './passes.ts';
import { shieldMasks } from './shields.ts';
import type { PlannedTitle } from './titles.ts';

export interface PlannedPicture extends Framed {
  /** Empty for a title. */
  readonly source: string;
  readonly frame: number;
  /** Another frame of the source that is mixed in. */
  readonly mixed?: Mixed;
  /**
   * The matte of its subject instead of it, the picture without its subject or with its subject cleaned, or how far a still
   * is not clear; `of` tells one subject from another.
   */
  readonly shows?: { readonly what: 'matte' | 'behind' | 'clean' | 'clear'; readonly of: number };
  /** A title as large as the output, instead of a source's frame. */
  readonly title?: PlannedTitle;
}

/** A picture with what is drawn on it. */
export interface Drawn {
  readonly picture: PlannedPicture | null;
  readonly passes: readonly Pass[];
}

/** What all frames of a montage share. */
export interface LayerSources {
  readonly sources: ReadonlyMap<string, Source>;
  readonly media: MediaIndex;
  readonly effects: EffectRegistry;
  /** The output's width / height. */
  readonly aspect: number;
}

/** In its place and size, all of it. */
const WHOLE = { place: [0, 0, 1, 0], turn: [1, 0], blend: [1, 0] };
/** The numbers of multiplying and of screening among the overlay's blends. */
const MULTIPLY = 5;
const SCREEN = 2;

/**
 * How a subject is looked at: its matte, it before checks or a colour, its edge, or all else dimmed and it lit, by so much:
 * seen on dark pictures, too.
 */
export type SubjectLook = 'matte' | 'checks' | 'edge' | 'dimmed' | `#${string}`;
const [DIMMED, LIT] = [0.8, 0.2];
/** Light of the checks and of the edge, and how wide they are, frame heights. */
const CHECKS = [0.3, 0.15].map((light) => [light, light, light]);
const EDGE = [1, 0.25, 0.02];
const [CHECK_SIDE, EDGE_REACH] = [1 / 24, 0.003];

/** Linear light of a colour as #rrggbb. */
const lightOf = (colour: string): number[] =>
  [1, 3, 5].map((at) => toLinear(parseInt(colour.slice(at, at + 2), 16) / 255));

/** Another picture over the whole one, in linear light. */
export const fadePass = (picture: number, share: number, blend = 0): Pass => ({
  effect: 'overlay',
  uniforms: { place: [0, 0, 1], blend: [share, blend] },
  copies: [{ shift: 0, picture, passes: [] }],
});

/** Whether a subject is shown in other colours than its picture has. */
export const cleans = ({ key, clean }: Subject): boolean =>
  Boolean(clean) || Boolean(key?.spill && key.by === 'colour' && key.invert);

/** Source seconds of what a picture shows; between two frames of one source the moment between them. */
export function momentOf({ frame, mixed }: Pick<PlannedPicture, 'frame' | 'mixed'>, times: FrameTimes): number {
  const from = times.timeOf(frame);
  return mixed && !mixed.source ? from + mixed.share * (times.timeOf(mixed.frame) - from) : from;
}

const same = (a: PlannedPicture, b: PlannedPicture): boolean =>
  a.source === b.source &&
  a.frame === b.frame &&
  a.shows?.what === b.shows?.what &&
  a.title?.id === b.title?.id &&
  a.mixed?.share === b.mixed?.share &&
  a.centre?.x === b.centre?.x &&
  a.centre?.y === b.centre?.y;

export class FrameLayers {
  /** Pictures that passes read by their place in this list. */
  readonly others: PlannedPicture[] = [];

  /**
   * @param pictureAt what is shown so many output frames later
   * @param subject a number that tells the subject of what is shown from others; null where it has none
   */
  constructor(
    private readonly all: LayerSources,
    private readonly pictureAt: (by: number) => PlannedPicture | null,
    private readonly subject: number | null,
  ) {}

  /** A picture's place among the others. */
  place(picture: PlannedPicture): number {
    const known = this.others.findIndex((other) => same(other, picture));
    return known >= 0 ? known : this.others.push(picture) - 1;
  }

  private ofSubject(picture: PlannedPicture, what: 'matte' | 'behind' | 'clean'): PlannedPicture {
    return { ...picture, shows: { what, of: this.subject! } };
  }

  /** Those that move a layer, and its edge with it; colours stay in their place. */
  private moving(passes: readonly Pass[]): readonly Pass[] {
    return passes.filter(({ effect }) => this.all.effects.get(effect)?.stage !== 'colour');
  }

  /** A copy laid over what is below it, as far as its matte says. */
  private matted(copy: PassCopy): Pass {
    return { effect: 'matted', uniforms: { ...WHOLE, box: [this.all.aspect / 2, 0.5] }, copies: [copy] };
  }

  /** The same turned about a place, radians clockwise. */
  private turned(copy: PassCopy, { x, y, turn = 0 }: PlannedTitle): Pass {
    const pass = this.matted(copy);
    if (!turn) return pass;
    const to = takenTo({ x, y }, { x, y }, turn, 1);
    // What is turned into the picture from beyond it is seen, too.
    const uniforms = { ...pass.uniforms, place: [to.x, to.y, 1, 0], turn: [to.c, to.s], box: [4, 4] };
    return { ...pass, uniforms };
  }

  /**
   * A title laid over what is below it.
   * @param passes what is done to it alone; those that lay other frames over have none to lay
   */
  titled(title: PlannedTitle, passes: readonly Pass[]): Pass {
    const own = this.placed(passes.filter(({ copies }) => !copies || copies.every(({ layer }) => layer)));
    const picture: PlannedPicture = { source: '', frame: 0, fit: 'fill', title };
    const matte = { ...picture, shows: { what: 'clear', of: 0 } } as const;
    const [at, clear] = [this.place(picture), this.place(matte)];
    return this.turned(
      { shift: 0, picture: at, passes: own, matte: { picture: clear, passes: this.moving(own) } },
      title,
    );
  }

  /** What a subject is cut out of. */
  private cutOf(picture: PlannedPicture): PlannedPicture {
    const subject = this.all.sources.get(picture.source)?.subject;
    return subject && cleans(subject) ? this.ofSubject(picture, 'clean') : picture;
  }

  /** Passes whose copies have their places; those that show a source which is gone are left out. */
  placed(list: readonly Pass[]): readonly Pass[] {
    if (!list.some((pass) => pass.copies ?? pass.moments)) return list;
    return list.flatMap((pass): readonly Pass[] => {
      if (pass.moments) return [{ ...pass, moments: pass.moments.map((moment) => this.placed(moment)) }];
      const [first] = pass.copies ?? [];
      if (first?.layer) return this.layered(pass, first);
      return [pass.copies ? { ...pass, copies: pass.copies.map((copy) => this.copied(copy)) } : pass];
    });
  }

  private copied(copy: PassCopy): PassCopy {
    const picture = this.pictureAt(copy.shift);
    if (!picture) return copy;
    const cut = copy.subject && this.subject !== null;
    const passes = this.placed(copy.passes);
    if (!cut) return { ...copy, picture: this.place(picture), passes };
    const matte = { picture: this.place(this.ofSubject(picture, 'matte')), passes: [] };
    return { ...copy, picture: this.place(this.cutOf(picture)), passes, matte };
  }

  /** A pass that shows another source, with the frame of it and the box it lies in. */
  private layered(pass: Pass, { layer, passes }: PassCopy): readonly Pass[] {
    const { source: id, seconds, whole } = layer!;
    const { sources, media, aspect } = this.all;
    const [source, times] = [sources.get(id), media.get(id)];
    if (!source?.video || !times) return [];
    const from = times.timeOf(0);
    const frame = source.still ? 0 : times.indexAt(from + (seconds % Math.max(1e-3, times.end - from)));
    const picture: PlannedPicture = { source: id, frame, fit: whole ? 'fit' : 'fill' };
    const shape = source.video.width / source.video.height;
    const [wide, high] = whole ? [Math.min(aspect, shape), Math.min(1, aspect / shape)] : [aspect, 1];
    const clear: PlannedPicture = { ...picture, shows: { what: 'clear', of: 0 } };
    const copy: PassCopy = {
      shift: 0,
      picture: this.place(picture),
      passes: this.placed(passes),
      ...(source.still && { matte: { picture: this.place(clear), passes: [] } }),
    };
    return [{ ...pass, uniforms: { ...pass.uniforms, box: [wide / 2, high / 2] }, copies: [copy] }];
  }

  /** What acts on the subject, or on what is behind it, and the subject laid over that; without a subject both act on all. */
  parted(picture: PlannedPicture | null, behind: readonly Pass[], subject: readonly Pass[]): Drawn {
    const both = [...behind, ...subject];
    if (!picture || this.subject === null || !both.length) return { picture, passes: this.placed(both) };
    const below = this.placed(behind);
    const onSubject = this.placed(subject);
    const copy: PassCopy = {
      shift: 0,
      picture: this.place(this.cutOf(picture)),
      passes: onSubject,
      // What moves the subject moves its edge.
      matte: { picture: this.place(this.ofSubject(picture, 'matte')), passes: this.moving(onSubject) },
    };
    // Colours stay in their place: nothing of the subject is seen beside it.
    if (!this.moving(both).length) return { picture, passes: [...below, this.matted(copy)] };
    const without = this.ofSubject(picture, 'behind');
    const plain = { picture: this.place(without), passes: onSubject };
    return {
      picture: without,
      passes: [...below, { effect: 'parted', uniforms: {}, copies: [{ ...copy, behind: plain }] }],
    };
  }

  /** The subject looked at by itself. Null where there is no subject. */
  lookedAt(picture: PlannedPicture | null, looked: SubjectLook): Drawn | null {
    if (!picture || this.subject === null) return null;
    const matte = this.ofSubject(picture, 'matte');
    if (looked === 'dimmed') {
      const at = this.place(matte);
      return { picture, passes: [fadePass(at, DIMMED, MULTIPLY), fadePass(at, LIT, SCREEN)] };
    }
    if (looked === 'matte') return { picture: matte, passes: [] };
    const ofMatte = { picture: this.place(matte), passes: [] };
    if (looked === 'edge') {
      const copies = [{ shift: 0, ...ofMatte }];
      return { picture, passes: [{ effect: 'rim', uniforms: { light: EDGE, reach: EDGE_REACH }, copies }] };
    }
    const [one, other] = looked === 'checks' ? CHECKS : [lightOf(looked), lightOf(looked)];
    const copy: PassCopy = { shift: 0, picture: this.place(this.cutOf(picture)), passes: [], matte: ofMatte };
    return {
      picture,
      passes: [{ effect: 'backdrop', uniforms: { one: one!, other: other!, side: CHECK_SIDE } }, this.matted(copy)],
    };
  }

  /** Passes that show a picture as it is where its source is shielded. */
  shielded(picture: PlannedPicture | null): readonly Pass[] {
    const { shields, video } = (picture && this.all.sources.get(picture.source)) ?? {};
    if (!picture || !shields?.length || !video) return [];
    const at = this.place(picture);
    return shieldMasks(shields, picture, video.width / video.height, this.all.aspect).map((mask) => ({
      ...fadePass(at, 1),
      mask,
    }));
  }
}
