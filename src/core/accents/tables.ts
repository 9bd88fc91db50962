/** What lies on a montage as tables: where accents lie, and what they do frame by frame. */
import Papa from 'papaparse';
import { timecode } from '../base/time.ts';
import type { Accent } from '../document/types.ts';
import type { EffectRegistry } from './effect-spec.ts';
import { shownValues } from './passes.ts';
import { ageOn } from './placements.ts';
import type { PreparedUse } from './prepare.ts';
import type { Planner } from './plan.ts';

const rounded = (value: number, digits = 6): number => Number(value.toFixed(digits));

/** One line for each placement, in their order: frames and timecode, accent, hit, intensity, what laid it. */
export function placementsTable({ placements, timeline }: Pick<Planner, 'placements' | 'timeline'>): string {
  const rows = placements.map((p) => ({
    frame: p.frame,
    timecode: timecode(p.frame, timeline.rate),
    seconds: rounded(timeline.timeOf(p.frame)),
    accent: p.accent.accent.name,
    from: p.from,
    to: p.to,
    hit: p.occurrence.hit.kind,
    strength: rounded(p.occurrence.hit.strength, 3),
    intensity: rounded(p.intensity, 3),
    seed: p.seed,
    laid: p.rule ? 'by rule' : 'by hand',
    muted: p.muted ? 'yes' : '',
  }));
  return `${Papa.unparse(rows, { newline: '\n', escapeFormulae: true, columns: COLUMNS })}\n`;
}
const COLUMNS = [
  'frame',
  'timecode',
  'seconds',
  'accent',
  'from',
  'to',
  'hit',
  'strength',
  'intensity',
  'seed',
  'laid',
  'muted',
];

/** All numbers of an accent on each of its frames, as it is drawn on a hit: by effect and parameter. */
export interface EnvelopeTable {
  readonly accent: string;
  readonly fps: number;
  readonly columns: readonly string[];
  readonly frames: readonly { readonly frame: number; readonly values: readonly number[] }[];
}

export function envelopeTable(
  accent: Accent,
  planner: Pick<Planner, 'placed' | 'timeline'>,
  effects: EffectRegistry,
): EnvelopeTable {
  const placed = planner.placed({ accent, frame: 0, intensity: 1 });
  const every = (uses: readonly PreparedUse[]): PreparedUse[] => uses.flatMap((use) => [use, ...every(use.stack)]);
  const uses = every(placed.accent.effects).filter((use) => use.on && effects.has(use.effect));
  const parts = uses.flatMap((use, i) =>
    Object.keys(effects.get(use.effect)!.params).map((param) => ({
      use,
      param,
      name: `${i + 1} ${use.effect} ${param}`,
    })),
  );
  const { before, after } = placed.accent;
  const frames = Array.from({ length: Math.floor(after) + Math.ceil(before) + 1 }, (_, i) => {
    const frame = i - Math.ceil(before);
    const age = ageOn(placed, placed.frame + frame);
    const shown = new Map(uses.map((use) => [use, shownValues(placed.accent, use, age, placed, effects)]));
    return { frame, values: parts.map(({ use, param }) => rounded(shown.get(use)![param] ?? 0)) };
  });
  return { accent: accent.name, fps: planner.timeline.fps, columns: parts.map(({ name }) => name), frames };
}

export const envelopeCsv = ({ columns, frames }: EnvelopeTable): string =>
  `${Papa.unparse(
    { fields: ['frame', ...columns], data: frames.map(({ frame, values }) => [frame, ...values]) },
    { newline: '\n' },
  )}\n`;
