/** The rows of an accent: its parameters, what moves them, and how several are set together. */
import type { ParamSpec } from '../../core/accents/effect-spec.ts';
import { keyedOn, rekeyedOn, type PreparedUse } from '../../core/accents/prepare.ts';
import { related, valueOn } from '../../core/accents/cells.ts';
import { together, type Edit } from '../../core/document/edits.ts';
import { isMoved, partOf, shapedParts, type ShapedPart } from '../../core/document/params.ts';
import type { EffectUse, Envelope, Key } from '../../core/document/types.ts';
import { EFFECTS } from '../../effects/index.ts';
import { allUses, changeRow, rowId, useShaping, type Row, type ShapedAccent } from './shaping.ts';

/** Up to three figures that matter. */
export const shown = (value: number): string =>
  String(Math.abs(value) >= 100 ? Math.round(value) : Math.round(value * 10) / 10);

export interface RowInfo extends Row {
  readonly spec: ParamSpec;
  /** Its effect, numbered where the accent has several of it, and what the row is called within it. */
  readonly effect: string;
  readonly label: string;
  readonly data: EffectUse;
  readonly prepared: PreparedUse | undefined;
}

/** What a generator's parts are shaped within. */
const PARTS: Record<ShapedPart, Pick<ParamSpec, 'label' | 'min' | 'max' | 'doc'>> = {
  amount: { label: 'strength of it', min: -10_000, max: 10_000, doc: 'How far the generator moves the row above.' },
  rate: { label: 'pace of it', min: 0, max: 60, doc: 'How often a second the generator moves the row above.' },
  chance: { label: 'chance of it', min: 0, max: 100, doc: 'How likely each decision of the generator is.' },
};

/** Rows of an accent: what is shaped or can be, nested stacks under what they belong to. */
export function rowsOf({ accent, placed }: ShapedAccent, all: boolean): RowInfo[] {
  const prepared = new Map<string, PreparedUse>();
  const note = (uses: readonly PreparedUse[]): void =>
    uses.forEach((use) => {
      prepared.set(use.id, use);
      note(use.stack);
    });
  note(placed.accent.effects);
  const uses = allUses(accent.effects);
  const nameOf = ({ id, effect }: EffectUse): string => {
    const alike = uses.filter(({ use }) => use.effect === effect);
    const name = EFFECTS.get(effect)?.name ?? effect;
    return alike.length > 1 ? `${name} ${alike.findIndex(({ use }) => use.id === id) + 1}` : name;
  };
  return uses.flatMap(({ use, parent }) => {
    const spec = EFFECTS.get(use.effect);
    if (!spec) return [];
    const effect = parent ? `${nameOf(parent)} › ${nameOf(use)}` : nameOf(use);
    return Object.entries(spec.params)
      .filter(
        ([name, p]) =>
          all ||
          (!p.choices && typeof use.params[name] === 'object') ||
          (p.identity !== undefined && use.params[name] !== undefined && use.params[name] !== p.identity),
      )
      .flatMap(([param, paramSpec]) => {
        const row = { use: use.id, param, effect, data: use, prepared: prepared.get(use.id) };
        const now = use.params[param];
        const parts = now !== undefined && isMoved(now) ? shapedParts(now.by) : [];
        return [
          { ...row, spec: paramSpec, label: paramSpec.label },
          ...parts.map((part) => ({
            ...row,
            part,
            label: `${paramSpec.label}, ${PARTS[part].label}`,
            spec: {
              ...PARTS[part],
              unit: part === 'amount' ? paramSpec.unit : part === 'rate' ? ('Hz' as const) : ('%' as const),
              default: 0,
            },
          })),
        ];
      });
  });
}

/** The envelope of a row: its keys, or a steady value. */
export const rowEnvelope = ({ data, param, part, spec }: RowInfo): Envelope =>
  partOf(data.params[param] ?? spec.default, part) ?? spec.default;

/** Value of a row at which its parameter does nothing. */
export const restOf = ({ spec }: RowInfo): number => spec.identity ?? spec.default;

/** Rows that are set with one: those that are ticked, or picked, if it is among them. */
export function rowsWith(rows: readonly RowInfo[], row: RowInfo): readonly RowInfo[] {
  const { also } = useShaping.getState();
  const picked = new Set(pickedCells(rows, row, 0).rows.map(rowId));
  return rows.filter(
    (r) => rowId(r) === rowId(row) || picked.has(rowId(r)) || (also.has(rowId(row)) && also.has(rowId(r))),
  );
}

/** The cells that are picked, if one is among them, else it alone: rows in their order, frames both inclusive. */
export function pickedCells(
  rows: readonly RowInfo[],
  row: Row,
  at: number,
): { rows: readonly RowInfo[]; from: number; to: number } {
  const { picked } = useShaping.getState();
  const place = (id: string): number => rows.findIndex((r) => rowId(r) === id);
  const here = place(rowId(row));
  const alone = { rows: rows.slice(here, here + 1), from: at, to: at };
  if (!picked) return alone;
  const ends = [place(picked.from.row), place(picked.to.row)].sort((a, b) => a - b);
  if (ends[0]! < 0 || here < ends[0]! || here > ends[1]!) return alone;
  const [from, to] = [picked.from.at, picked.to.at].sort((a, b) => a - b);
  return { rows: rows.slice(ends[0], ends[1]! + 1), from: from!, to: to! };
}

/**
 * Sets a value on a frame of a row, on all frames picked with it, and changes rows that are set with it alike.
 * @param rows as they were before a drag began, so that a drag to where nothing is left and back loses nothing
 * @param typed the value itself; else frames picked with it change by as much
 */
export function put(
  shaped: ShapedAccent,
  rows: readonly RowInfo[],
  row: RowInfo,
  frame: number,
  value: number,
  typed: boolean,
): Edit {
  const { places } = shaped;
  const { relation } = useShaping.getState();
  const { from, to: last } = pickedCells(rows, row, frame);
  const was = (at: number): number => valueOn(rowEnvelope(row), places, at);
  const is = (at: number): number => (typed ? value : was(at) + value - was(frame));
  return together(
    rowsWith(rows, row).map((r) =>
      changeRow(shaped.accent.id, r, (now) => {
        const before = typed ? now : rowEnvelope(r);
        let next = before;
        for (let at = from; at <= last; at++) {
          const change = { was: was(at), is: is(at), rest: restOf(row) };
          const other = (): number => related(valueOn(before, places, at), restOf(r), change, relation);
          const to = r === row ? change.is : Math.round(other() * 1000) / 1000;
          next = keyedOn(next, places, at, Math.min(r.spec.max, Math.max(r.spec.min, to)));
        }
        return next;
      }),
    ),
  );
}

/** Changes the keys on the picked frames of a row and of those set with it; null takes them away. */
export const rekey = (
  { accent, places }: ShapedAccent,
  rows: readonly RowInfo[],
  row: RowInfo,
  frame: number,
  change: (key: Key) => Key | null,
): Edit => {
  const { from, to } = pickedCells(rows, row, frame);
  return together(
    rowsWith(rows, row).map((r) =>
      changeRow(accent.id, r, (envelope) => {
        let next = envelope;
        for (let at = from; at <= to; at++) next = rekeyedOn(next, places, at, change);
        return next;
      }),
    ),
  );
};

/** Step and range of dragging. */
export function dragStep(spec: ParamSpec): number {
  const span = Math.min(
    spec.max - spec.min,
    4 * Math.max(1, Math.abs(spec.default - (spec.identity ?? 0)), spec.max / 8),
  );
  return spec.choices ? 1 : spec.unit === 'stops' || span < 20 ? 0.1 : 1;
}
