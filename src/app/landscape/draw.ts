/** What the landscape's canvas shows: ground, sound, accents, ruler, beats and hits. Nothing of it moves with the playhead. */
import { timecode } from '../../core/base/time.ts';
import { lowerBound } from '../../core/base/search.ts';
import type { Placement } from '../../core/accents/placements.ts';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import type { Derived } from '../stores/derived.ts';
import type { RuleChange } from '../stores/rule-change.ts';
import { hitLook, KIND_COLOURS, KIND_SHAPES, type PinShape } from '../parts/kinds.ts';
import { crowds, frameToX, rulerStep, type View } from './geometry.ts';

/** Pixels above the ground for the ruler, and below it for names and accents. */
const RULER = 18;
const BELOW = 28;
/** Lanes in which accents of several rules lie beneath one another, and their height. */
const LANES = 3;
const LANE = 4;

export interface Scene {
  readonly derived: Derived;
  readonly view: View;
  readonly width: number;
  readonly height: number;
  /** Loudest sample 0-1 of each column. */
  readonly wave: Float32Array;
  readonly chosen: string | null;
  /** Whether clips have their names here. */
  readonly names: boolean;
}

/** Where a hit's stem ends, by its strength 0-1. */
const ground = (height: number): number => height - BELOW;
const topOf = (strength: number, height: number): number =>
  ground(height) - 8 - strength * (ground(height) - RULER - 22);

/** The part of a list, in order of its frames, that lies in sight. */
function inSight<T>(list: readonly T[], frame: (one: T) => number, [from, to]: View): readonly T[] {
  return list.slice(lowerBound(list, from - 1, frame), lowerBound(list, to + 1, frame));
}

/** Hits as they are drawn: by themselves, or several in one mark where there is no room. */
export const pinsOf = (shown: readonly Occurrence[], view: View, width: number): Occurrence[][] =>
  crowds(
    inSight(shown, ({ frame }) => frame, view),
    ({ frame }) => frameToX(frame, view, width),
  );

export function drawScene(pen: CanvasRenderingContext2D, scene: Scene): void {
  const { derived, view, width, height, wave } = scene;
  const { line } = derived;
  pen.clearRect(0, 0, width, height);
  const x = (frame: number): number => frameToX(frame, view, width);
  for (const span of line.spans) {
    if (span.end < view[0] || span.first > view[1]) continue;
    const [left, right] = [x(span.first), x(span.end)];
    pen.fillStyle = span.index % 2 ? '#18262d' : '#15222a';
    pen.fillRect(left + 1, RULER, Math.max(1, right - left - 2), height - RULER);
    const room = Math.min(width, right) - Math.max(0, left) - 12;
    // No name at all where there is room for a few letters only.
    if (!scene.names || room < 48) continue;
    pen.fillStyle = '#6f868e';
    pen.font = '11px "Inter Variable", sans-serif';
    const name = derived.montage.sources.find((s) => s.id === span.clip.source)?.name ?? '';
    pen.save();
    pen.beginPath();
    pen.rect(Math.max(0, left), height - 14, room + 8, 14);
    pen.clip();
    pen.fillText(name, Math.max(4, left + 6), height - 4);
    pen.restore();
  }
  const floor = ground(height);
  pen.fillStyle = '#33525c';
  for (let i = 0; i < width; i++) {
    const h = wave[i]! * (floor - RULER - 16);
    if (h > 0.3) pen.fillRect(i, floor - h, 1, h + Math.min(6, h * 0.3));
  }
  drawRuler(pen, scene, x);
  // The beat grid as small ticks under the ruler, whether or not beats are listed.
  pen.fillStyle = KIND_COLOURS.beat;
  const beats = inSight(derived.everywhere, ({ frame }) => frame, view).filter(
    ({ hit }) => hit.kind === 'beat' && hit.state !== 'rejected',
  );
  // Bars alone where beats would run into one another.
  const room = beats.length < width / 4;
  for (const { hit, frame } of beats)
    if (room || hit.strength === 1)
      pen.fillRect(x(frame), RULER, hit.strength === 1 ? 2 : 1, hit.strength === 1 ? 7 : 4);
  drawHits(pen, scene, x);
}

/** Where accents lie: the lead fainter than the tail, the accent's own frame as a line between them. */
export function drawPlacements(
  pen: CanvasRenderingContext2D,
  {
    derived,
    view,
    width,
    height,
    change,
  }: Pick<Scene, 'derived' | 'view' | 'width' | 'height'> & { readonly change: RuleChange | null },
): void {
  pen.clearRect(0, 0, width, height);
  const x = (frame: number): number => frameToX(frame, view, width);
  const rules = new Map(derived.montage.rules.map(({ id }, i) => [id, i]));
  const floor = ground(height);
  const reach = derived.planner.reach;
  const seen = inSight(derived.planner.placements, ({ from }) => from, [view[0] - reach, view[1]]);
  const paint = (
    list: readonly Placement[],
    style: string,
    box: (p: Placement) => readonly [number, number],
    tall = LANE - 1,
  ): void => {
    pen.fillStyle = style;
    // What lies under another box of its lane already is not drawn again: thousands may lie on a few pixels.
    const drawn = new Array<number>(LANES).fill(-Infinity);
    for (const p of list) {
      if (p.muted || p.to < view[0] || p.from > view[1]) continue;
      const lane = p.rule ? (rules.get(p.rule.id) ?? 0) % LANES : LANES - 1;
      const [from, right] = box(p);
      const left = Math.max(from, drawn[lane]!);
      if (right - left < 0.25) continue;
      pen.fillRect(left, floor + 1 + lane * LANE, right - left, tall);
      drawn[lane] = right;
    }
  };
  const whole = (p: Placement): readonly [number, number] => [x(p.from), Math.max(x(p.from) + 2, x(p.to + 1))];
  paint(seen, 'rgba(88,194,188,0.3)', (p) => [x(p.from), x(p.frame)]);
  paint(seen, 'rgba(88,194,188,0.6)', (p) => [x(p.frame), Math.max(x(p.frame) + 1.5, x(p.to + 1))]);
  paint(
    seen.filter(({ hand }) => hand),
    '#f2a541',
    whole,
  );
  paint(seen, '#bff0ea', (p) => [x(p.frame), x(p.frame) + 1.5]);
  // What the last change of a rule brought, and what it took.
  if (change) {
    paint(change.come, '#f2a541', whole);
    paint(change.gone, '#e8846b', whole, 1);
  }
}

function drawRuler(pen: CanvasRenderingContext2D, { derived, view, width }: Scene, x: (frame: number) => number): void {
  const { line } = derived;
  const rule = rulerStep(view, width, line.fps);
  pen.font = '10.5px "JetBrains Mono Variable", monospace';
  for (let f = Math.ceil(view[0] / rule) * rule; f < view[1]; f += rule) {
    pen.fillStyle = '#2c4049';
    pen.fillRect(x(f), 0, 1, 16);
    pen.fillStyle = '#9db2b8';
    pen.fillText(rule < line.fps ? String(f) : timecode(f, line.rate), x(f) + 4, 11);
  }
}

/** The outline of a pin's head about a point. */
function pinPath(pen: CanvasRenderingContext2D, shape: PinShape, x: number, y: number, r: number): void {
  pen.beginPath();
  switch (shape) {
    case 'disc':
      pen.arc(x, y, r, 0, 7);
      break;
    case 'square':
      pen.rect(x - r * 0.9, y - r * 0.9, r * 1.8, r * 1.8);
      break;
    case 'bar':
      pen.rect(x - r, y - r * 0.5, r * 2, r);
      break;
    case 'diamond':
      pen.moveTo(x, y - r * 1.3);
      for (const [dx, dy] of [
        [1.3, 0],
        [0, 1.3],
        [-1.3, 0],
      ] as const)
        pen.lineTo(x + dx * r, y + dy * r);
      pen.closePath();
      break;
    case 'triangle':
      pen.moveTo(x, y - r * 1.3);
      for (const dx of [1.2, -1.2]) pen.lineTo(x + dx * r, y + r * 0.9);
      pen.closePath();
      break;
    case 'drop':
      pen.moveTo(x, y + r * 1.4);
      for (const dx of [1.3, -1.3]) pen.lineTo(x + dx * r, y - r * 0.9);
      pen.closePath();
  }
}

/** A stem as tall as the hit is strong, with a lamp on top once it is kept; a number where there are too many. */
function drawHits(pen: CanvasRenderingContext2D, scene: Scene, x: (frame: number) => number): void {
  const { derived, view, width, height, chosen } = scene;
  const half = Math.max(0, x(1) - x(0)) / 2;
  const floor = ground(height);
  const stem = ({ key, hit, frame }: Occurrence): void => {
    const at = x(frame) + half;
    const top = topOf(hit.strength, height);
    const kept = hit.state === 'kept' || hit.state === 'made';
    pen.globalAlpha = hit.state === 'rejected' ? 0.25 : kept ? 1 : 0.65;
    pen.strokeStyle = pen.fillStyle = hitLook(hit, derived.montage.families).colour;
    pen.lineWidth = key === chosen ? 2.5 : 1.25;
    pen.beginPath();
    pen.moveTo(at, floor);
    pen.lineTo(at, top);
    pen.stroke();
    pinPath(pen, KIND_SHAPES[hit.kind], at, top, key === chosen ? 5 : 3.2);
    if (kept) pen.fill();
    else pen.stroke();
    pen.globalAlpha = 1;
  };
  for (const crowd of pinsOf(derived.shown, view, width)) {
    if (crowd.length === 1) {
      stem(crowd[0]!);
      continue;
    }
    const left = x(crowd[0]!.frame) + half;
    const right = x(crowd.at(-1)!.frame) + half;
    const strongest = crowd.reduce((best, one) => (one.hit.strength > best.hit.strength ? one : best));
    const top = topOf(strongest.hit.strength, height);
    pen.globalAlpha = crowd.every(({ hit }) => hit.state === 'rejected') ? 0.25 : 0.9;
    pen.fillStyle = hitLook(strongest.hit, derived.montage.families).colour;
    pen.fillRect(left, top, Math.max(2, right - left), floor - top);
    pen.globalAlpha = 1;
    pen.font = '600 10px "Inter Variable", sans-serif';
    const label = String(crowd.length);
    pen.fillText(label, (left + right - pen.measureText(label).width) / 2, top - 3);
  }
  const alone = derived.everywhere.find(({ key }) => key === chosen);
  if (alone) stem(alone);
}
