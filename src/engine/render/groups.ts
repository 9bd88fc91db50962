/** How a frame is drawn whatever draws it: developed, its stack run group by group, the last one encoded; and kept. */
import type { Layer, Step, View } from '../../core/accents/effect-spec.ts';
import { drawGroups, lower, standsStill, type Group } from '../../effects/compose.ts';
import { scaledSize } from '../../effects/shrink.ts';
import type { Drawing, Picture } from './frame-renderer.ts';
import type { Encoding } from './shaders.ts';
import { stampOf, type Stamp } from './stamps.ts';

/** One group of steps with all that it reads, and what it is drawn into. */
export interface GroupDraw<T> {
  readonly group: Group;
  readonly encoding: Encoding;
  readonly into: T;
  readonly below: T;
  /** By the names of their samplers. */
  readonly layers: readonly (readonly [name: string, picture: T])[];
  /** The whole frame, which a group may be smaller than. */
  readonly view: View;
}

/** What draws on pictures of its own kind. */
export interface Drawer<T> {
  /** A picture of linear light to draw into. */
  acquire(size: View): T;
  release(picture: T): void;
  develop(picture: Picture, view: View): T;
  drawGroup(draw: GroupDraw<T>): void;
  /** Develops a picture and draws a group that stands still over it at once, where that is quicker than one after the other. */
  drawDeveloped?(picture: Picture, draw: Pick<GroupDraw<T>, 'group' | 'encoding' | 'into' | 'view'>): void;
}

/** Draws groups of steps one after the other, the last into `into` where that is given. `below` stays the caller's. */
function run<T>(
  drawer: Drawer<T>,
  steps: readonly Step[],
  below: T,
  others: readonly T[],
  view: View,
  into: { readonly picture: T; readonly encoding: Encoding } | null,
): T {
  const groups = drawGroups(steps);
  let under = below;
  groups.forEach((group, g) => {
    const end = g === groups.length - 1 ? into : null;
    const made: T[] = [];
    const pictureOf = (layer: Layer): T => {
      const base = layer.picture === 'below' ? under : (others[layer.picture] ?? under);
      if (!layer.steps.length) return base;
      const drawn = run(drawer, layer.steps, base, others, view, null);
      made.push(drawn);
      return drawn;
    };
    const layers = group.steps.flatMap((step, i) =>
      (step.layers ?? []).map((layer, k) => [`layer${i}_${k}`, pictureOf(layer)] as const),
    );
    const target = end?.picture ?? drawer.acquire(scaledSize(view, group.scale));
    drawer.drawGroup({ group, encoding: end?.encoding ?? null, into: target, below: under, layers, view });
    made.forEach((one) => drawer.release(one));
    if (under !== below) drawer.release(under);
    under = target;
  });
  return under;
}

/** A drawing at a size, all of it data: what another thread can draw. */
export interface Lowered {
  readonly picture: Picture | null;
  readonly others: readonly (Picture | null)[];
  readonly steps: readonly Step[];
  /** Laid over the finished frame. */
  readonly stamps: readonly Stamp[];
}

export const lowered = ({ picture, others, passes, titles, draft }: Drawing, view: View): Lowered => ({
  picture,
  others,
  steps: lower(passes, view, draft),
  stamps: titles?.map((title) => stampOf(title, view)) ?? [],
});

/** Draws a frame that shows something into a picture of displayed colours. */
export function drawFrame<T>(
  drawer: Drawer<T>,
  { picture, others, steps }: Omit<Lowered, 'stamps'> & { readonly picture: Picture },
  view: View,
  into: T,
): void {
  const end = { picture: into, encoding: steps.length > 0 ? 'dithered' : 'plain' } as const;
  const [first, ...rest] = drawGroups(steps);
  const atOnce = standsStill(first!) ? drawer.drawDeveloped?.bind(drawer) : undefined;
  if (atOnce && !rest.length) {
    atOnce(picture, { group: first!, encoding: end.encoding, into, view });
    return;
  }
  let below: T;
  if (atOnce) {
    below = drawer.acquire(view);
    atOnce(picture, { group: first!, encoding: null, into: below, view });
  } else below = drawer.develop(picture, view);
  const developed = others.map((one) => drawer.develop(one ?? picture, view));
  run(drawer, atOnce ? steps.slice(first!.steps.length) : steps, below, developed, view, end);
  [below, ...developed].forEach((one) => drawer.release(one));
}

/** Bytes of finished frames that are kept. */
const KEPT_BYTES = 192 << 20;

/** Finished frames by what they are made of; those used longest ago go first. */
export class KeptFrames<T> {
  private readonly frames = new Map<string, { readonly frame: T; readonly bytes: number }>();
  private bytes = 0;

  /** @param drop called with frames that go */
  constructor(private readonly drop: (frame: T) => void) {}

  has(key: string): boolean {
    return this.frames.has(key);
  }

  get(key: string): T | undefined {
    const kept = this.frames.get(key);
    if (!kept) return undefined;
    this.frames.delete(key);
    this.frames.set(key, kept);
    return kept.frame;
  }

  add(key: string, frame: T, bytes: number): void {
    this.frames.set(key, { frame, bytes });
    this.bytes += bytes;
    for (const [oldest, one] of this.frames) {
      if (this.bytes <= KEPT_BYTES || one.frame === frame) break;
      this.bytes -= one.bytes;
      this.frames.delete(oldest);
      this.drop(one.frame);
    }
  }

  /** Forgets all of them, which are gone. */
  clear(): void {
    this.frames.clear();
    this.bytes = 0;
  }
}
