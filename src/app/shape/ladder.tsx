/** The frame ladder: frames across, parameters down, values in the cells. */
import { isMoved, partOf, replaced, shapedParts, type ShapedPart } from '../../core/document/params.ts';
import { Fragment, useRef, useState, type ReactNode } from 'react';
import { Brush, ChevronDown, ChevronRight } from 'lucide-react';
import { together, type Edit } from '../../core/document/edits.ts';
import { shownValues } from '../../core/accents/passes.ts';
import { keyedOn, keyOn, rekeyedOn, type PreparedUse } from '../../core/accents/prepare.ts';
import { endedIn, evaluate } from '../../core/accents/envelope.ts';
import type { ParamSpec } from '../../core/accents/effect-spec.ts';
import { EASING_NAMES, type Easing, type EffectUse, type Envelope, type Param } from '../../core/document/types.ts';
import { EFFECTS } from '../../effects/index.ts';
import { useWindowSize } from '../parts/use-size.ts';
import { EdgeHandle } from '../parts/edge-handle.tsx';
import { FramePicture } from '../parts/frame-picture.tsx';
import { seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { usePreferences, useView } from '../stores/view.ts';
import { allUses, changeRow, chooseRow, rowId, usePlacedAccent, useShaping, type Row } from './shaping.ts';

const CELL = 54;
/** Frames shown at once of accents that last until something far away. */
const MOST_COLUMNS = 160;

/** Up to three figures that matter. */
export const shown = (value: number): string =>
  String(Math.abs(value) >= 100 ? Math.round(value) : Math.round(value * 10) / 10);

type ShapedAccent = NonNullable<ReturnType<typeof usePlacedAccent>>;

interface RowInfo extends Row {
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

/** Sets a value on a frame of a row, and of all rows chosen with it. */
function put(shaped: ShapedAccent, rows: readonly RowInfo[], row: RowInfo, frame: number, value: number): Edit {
  const { also } = useShaping.getState();
  const taken = also.has(rowId(row)) ? rows.filter((r) => also.has(rowId(r))) : [row];
  return together(
    taken.map((r) =>
      changeRow(shaped.accent.id, r, (envelope) =>
        keyedOn(envelope, shaped.places, frame, Math.min(r.spec.max, Math.max(r.spec.min, value))),
      ),
    ),
  );
}

/** Heights between which the ladder can be dragged, pixels; never more than leaves the picture some room. */
const LOWEST = 120;
const HIGHEST = 1400;
const LEFT_FOR_PICTURE = 320;

export function Ladder() {
  const derived = useDerived();
  const shaped = usePlacedAccent();
  const painting = useShaping((s) => s.painting);
  const folded = useShaping((s) => s.folded);
  const room = useWindowSize().height;
  const ladderHeight = usePreferences((s) => s.ladderHeight) ?? Math.max(252, Math.round(room * 0.3));
  const [all, setAll] = useState(false);
  if (!derived || !shaped)
    return (
      <div className="border-t border-rope bg-deck p-3 text-fog">
        {derived?.montage.accents.length
          ? 'Keep a hit first: accents are shaped on one.'
          : 'Choose or make an accent to shape it here.'}
      </div>
    );
  const { accent, placed, audition } = shaped;
  const columns = Array.from(
    { length: Math.min(MOST_COLUMNS, placed.accent.lead + placed.accent.tail + 1) },
    (_, i) => i - placed.accent.lead,
  );
  const rows = rowsOf(shaped, all);
  const uses = [...new Set(rows.map((row) => row.use))];
  const { width, height } = derived.montage.settings;
  return (
    <section aria-label="Frame ladder" className="relative border-t border-rope bg-deck">
      <EdgeHandle
        edge="top"
        label="Height of the ladder"
        title="Drag: more rows, or a larger picture"
        size={ladderHeight}
        limits={[LOWEST, HIGHEST]}
        keeps="ladderHeight"
      />
      <div className="overflow-auto" style={{ maxHeight: Math.min(ladderHeight, room - LEFT_FOR_PICTURE) }}>
        <table
          className="border-separate border-spacing-0"
          role="grid"
          aria-label={`Values of ${accent.name} over its frames`}
        >
          <thead>
            <tr>
              <th scope="col" className="sticky top-0 left-0 z-20 min-w-56 bg-deck px-3 text-left align-bottom caption">
                <span className="-ml-1.5 flex items-center gap-1">
                  <button className="key-quiet" aria-pressed={all} onClick={() => setAll(!all)}>
                    {all ? 'Fewer rows' : 'All rows'}
                  </button>
                  <button
                    className={`key-quiet ${painting ? 'text-lamp' : ''}`}
                    aria-pressed={painting}
                    title="Painting: a pressed cell's value is laid on all cells the pointer goes over"
                    onClick={() => useShaping.setState({ painting: !painting })}
                  >
                    <Brush size={13} />
                    Paint
                  </button>
                </span>
                <span className="block">frames from the hit</span>
              </th>
              {columns.map((at) => {
                const place = placed.frame + at;
                return (
                  <ColumnHead key={at} at={at} place={place}>
                    {place >= 0 && place < derived.line.count && (
                      <FramePicture
                        frame={place}
                        width={108}
                        height={Math.round((108 * height) / width)}
                        plain={false}
                        audition={audition}
                        label={`Frame ${at} with the accent`}
                      />
                    )}
                  </ColumnHead>
                );
              })}
            </tr>
            <SourceRow first={placed.frame} columns={columns} />
          </thead>
          <tbody>
            {uses.map((use) => (
              <Fragment key={use}>
                <GroupRow
                  row={rows.find((row) => row.use === use)!}
                  columns={columns.length}
                  folded={folded.has(use)}
                />
                {!folded.has(use) &&
                  rows
                    .filter((row) => row.use === use)
                    .map((row) => (
                      <LadderRow key={rowId(row)} shaped={shaped} rows={rows} row={row} columns={columns} />
                    ))}
              </Fragment>
            ))}
          </tbody>
        </table>
        {rows.length === 0 && (
          <p className="px-3 py-2 text-fog">Nothing is shaped yet: add an effect, or show all rows.</p>
        )}
      </div>
    </section>
  );
}

/** A frame of the accent; the one under the playhead is marked without drawing the others anew. */
function ColumnHead({ at, place, children }: { at: number; place: number; children: ReactNode }) {
  const here = useView((s) => s.playhead === place);
  return (
    <th scope="col" className="sticky top-0 z-10 bg-deck p-px align-bottom" style={{ minWidth: CELL, maxWidth: CELL }}>
      <button
        className={`block w-full border ${at === 0 ? 'border-lamp' : here ? 'border-sail' : 'border-transparent'}`}
        aria-label={`Go to frame ${at} of the accent`}
        onClick={() => seek(place)}
      >
        {children}
        <span className={`mono block text-[11px] font-normal ${at === 0 ? 'bg-lamp text-night' : 'text-fog'}`}>
          {at > 0 ? `+${at}` : at}
        </span>
      </button>
    </th>
  );
}

/** Where the clip does not run as it was recorded: its speed on each frame, and which source frame that shows. */
function SourceRow({ first, columns }: { first: number; columns: readonly number[] }) {
  const { line } = useDerived()!;
  const cells = columns.map((at) => {
    const span = line.spanAt(first + at);
    if (!span?.map) return null;
    return {
      speed: `${shown(100 * span.map.speedAt(first + at - span.first + 0.001))} %`,
      frame: `${line.sourceFrame(span, first + at)}${line.mixedWith(span, first + at) ? ' +' : ''}`,
    };
  });
  if (cells.every((cell) => cell === null)) return null;
  return (
    <tr aria-label="Speed and source frame">
      <th scope="row" className="sticky left-0 z-10 bg-deck px-3 text-left text-[11px] font-normal text-fog">
        speed, source frame (+: mixed with the next)
      </th>
      {cells.map((cell, i) => (
        <td key={columns[i]} className="mono bg-deck px-1 text-center text-[10px] leading-tight text-fog">
          {cell && (
            <>
              <span className="block text-tide">{cell.speed}</span>
              {cell.frame}
            </>
          )}
        </td>
      ))}
    </tr>
  );
}

/** The head of an effect's rows, which folds them away. */
function GroupRow({ row: { use, effect, data }, columns, folded }: { row: RowInfo; columns: number; folded: boolean }) {
  const chosen = useShaping((s) => s.use === use);
  return (
    <tr className={data.on ? '' : 'opacity-40'} data-group={use}>
      <th scope="rowgroup" colSpan={columns + 1} className="border-b border-rope bg-night/40 p-0 text-left font-normal">
        <span className="sticky left-0 inline-flex items-center gap-1 px-2 py-0.5">
          <button
            className="key-quiet px-0.5"
            aria-expanded={!folded}
            aria-label={`Rows of ${effect}`}
            onClick={() => {
              const next = new Set(useShaping.getState().folded);
              if (!next.delete(use)) next.add(use);
              useShaping.setState({ folded: next });
            }}
          >
            {folded ? <ChevronRight size={13} /> : <ChevronDown size={13} />}
          </button>
          <button
            className={`text-[12px] font-medium ${chosen ? 'text-tide' : 'text-sail'}`}
            aria-pressed={chosen}
            onClick={() => useShaping.setState({ use, tab: 0 })}
          >
            {effect}
          </button>
        </span>
      </th>
    </tr>
  );
}

/** Points of a curve for each frame. */
const FINE = 4;

/** How a row's values run over the frames, from the least to the greatest of them. */
function RowCurve({ values, base, per }: { values: readonly number[]; base: number; per: number }) {
  const [least, most] = [Math.min(base, ...values), Math.max(base, ...values)];
  if (least === most) return null;
  const y = (value: number): number => 21 - ((value - least) / (most - least)) * 18;
  const line = values.map((value, i) => `${((i / per) * CELL).toFixed(1)} ${y(value).toFixed(1)}`).join(' L');
  const width = ((values.length - 1) / per) * CELL;
  return (
    <svg
      aria-hidden
      className="pointer-events-none absolute top-0 overflow-visible"
      style={{ left: CELL / 2 }}
      width={width}
      height={24}
    >
      <path d={`M0 ${y(base).toFixed(1)} L${line} L${width} ${y(base).toFixed(1)} Z`} className="fill-tide/15" />
      <path d={`M${line}`} className="fill-none stroke-tide/70" strokeWidth={1.25} />
    </svg>
  );
}

function LadderRow({
  shaped,
  rows,
  row,
  columns,
}: {
  shaped: ShapedAccent;
  rows: readonly RowInfo[];
  row: RowInfo;
  columns: readonly number[];
}) {
  const { accent, places, placed } = shaped;
  const { spec, data, effect, label } = row;
  const chosen = useShaping((s) => s.row !== null && rowId(s.row) === rowId(row));
  const also = useShaping((s) => s.also.has(rowId(row)));
  const param: Param = data.params[row.param] ?? spec.default;
  const moved = row.part === undefined && isMoved(param);
  const envelope = rowEnvelope(row);
  const timed = replaced(envelope, places.of);
  const keyed = typeof envelope !== 'number';
  const { identity } = spec;
  const ends =
    keyed &&
    identity !== undefined &&
    spec.scales !== false &&
    (evaluate(timed, places.tail) !== identity || (places.lead > 0 && evaluate(timed, -places.lead) !== identity));
  const quiet = !keyed && !moved && envelope === (identity ?? spec.default);
  const change = (work: (envelope: Envelope) => Envelope): void => edit(changeRow(accent.id, row, work));
  const drawn = columns.map((at) =>
    moved && row.prepared
      ? (shownValues(placed.accent, row.prepared, at, placed, EFFECTS)[row.param] ?? evaluate(timed, at))
      : evaluate(timed, at),
  );
  const fine = moved
    ? drawn
    : keyed
      ? Array.from({ length: (columns.length - 1) * FINE + 1 }, (_, i) => evaluate(timed, columns[0]! + i / FINE))
      : [];
  return (
    <tr className={data.on ? '' : 'opacity-40'} data-row={rowId(row)}>
      <th
        scope="row"
        className={`sticky left-0 z-10 px-3 py-0 text-left font-normal whitespace-nowrap ${chosen ? 'bg-plank' : 'bg-deck'}`}
      >
        <span className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-tide"
            aria-label={`Set ${effect} ${label} with other rows`}
            title="Rows that are ticked take each value together"
            checked={also}
            onChange={() => {
              const next = new Set(useShaping.getState().also);
              if (!next.delete(rowId(row))) next.add(rowId(row));
              useShaping.setState({ also: next });
            }}
          />
          <button
            className="flex items-center gap-1.5"
            onClick={() => {
              chooseRow(row, useShaping.getState().at);
              useShaping.setState({ tab: 1 });
            }}
          >
            <span className={quiet ? 'text-fog' : 'text-sail'} title={spec.doc}>
              {label}
            </span>
          </button>
          <span className="text-[11px] text-fog">{spec.unit === 'choice' ? '' : spec.unit}</span>
          {moved && isMoved(param) && (
            <span className="rounded bg-tide/25 px-1 text-[10px] text-tide" title="A generator moves it">
              {param.by.kind}
            </span>
          )}
          <span className="grow" />
          {ends && (
            <button
              className="px-0 text-[11px] text-ember"
              aria-label={`Fix the ends of ${effect} ${label}`}
              title="It does not end where it does nothing: the picture will jump. Fixes both ends."
              onClick={() =>
                change((e) =>
                  endedIn(e, identity, places.lead > 0 ? places.at(-places.lead) : 0, places.at(places.tail)),
                )
              }
            >
              fix
            </button>
          )}
          {keyed && (
            <button
              className="key-quiet px-0 text-[11px]"
              aria-label={`Make ${effect} ${label} steady`}
              title="Remove all keys"
              onClick={() => change(() => identity ?? evaluate(timed, 0))}
            >
              clear
            </button>
          )}
        </span>
      </th>
      {columns.map((at, i) => {
        const key = keyOn(envelope, places, at);
        return (
          <Cell
            key={at}
            at={at}
            value={drawn[i]!}
            set={evaluate(timed, at)}
            ease={key?.ease ?? null}
            spec={spec}
            curve={
              i === 0 && fine.length > 1 && !spec.choices ? (
                <RowCurve values={fine} base={identity ?? 0} per={moved ? 1 : FINE} />
              ) : null
            }
            label={`${effect} ${label} at ${at}`}
            row={row}
            onValue={(value, dragging) =>
              edit(put(shaped, rows, row, at, value), dragging ? `${rowId(row)}/${at}` : undefined)
            }
            onPaint={(id, frame, value) => {
              const other = rows.find((r) => rowId(r) === id);
              if (other) edit(put(shaped, rows, other, frame, value), `paint-${accent.id}`);
            }}
            onDrop={() => change((e) => rekeyedOn(e, places, at, () => null))}
            onEase={(ease) => change((e) => rekeyedOn(e, places, at, (k) => ({ ...k, ease })))}
          />
        );
      })}
    </tr>
  );
}

interface CellProps {
  at: number;
  row: RowInfo;
  spec: ParamSpec;
  label: string;
  /** What is drawn, generators included, and what is set. */
  value: number;
  set: number;
  ease: Easing | null;
  /** The row's curve, drawn from its first cell on. */
  curve: ReactNode;
  onValue(value: number, dragging: boolean): void;
  onDrop(): void;
  onEase(ease: Easing): void;
  onPaint(row: string, frame: number, value: number): void;
}

const EASE_MARKS: Record<string, string> = {
  hold: '▔',
  linear: '╱',
  ease: '∿',
  'fast out': '⌒',
  'slow out': '⌣',
  'both slow': 'S',
  overshoot: '↝',
  bounce: '⌵',
};
const easeName = (ease: Easing): string => (typeof ease === 'string' ? ease : 'own curve');

/** Step and range of dragging. */
export function dragStep(spec: ParamSpec): number {
  const span = Math.min(
    spec.max - spec.min,
    4 * Math.max(1, Math.abs(spec.default - (spec.identity ?? 0)), spec.max / 8),
  );
  return spec.choices ? 1 : spec.unit === 'stops' || span < 20 ? 0.1 : 1;
}

/**
 * Drag up or down to change, type a number, Delete removes the key, E goes through the easings.
 * A filled cell holds a key; the fill shows the value between the limits.
 */
function Cell({ at, row, value, set, ease, spec, label, curve, onValue, onDrop, onEase, onPaint }: CellProps) {
  const [typing, setTyping] = useState<string | null>(null);
  const drag = useRef<{ y: number; value: number; moved: boolean; paint: boolean; at: number } | null>(null);
  const step = dragStep(spec);
  const within = Math.min(spec.max, Math.max(spec.min, value));
  const past = within !== value;
  const text = spec.choices ? (spec.choices[Math.round(within)] ?? shown(within)) : shown(within);
  const finish = (): void => {
    const number = Number(typing?.replace(',', '.'));
    if (typing !== null && typing.trim() !== '' && Number.isFinite(number)) onValue(number, false);
    setTyping(null);
  };
  const move = (event: React.KeyboardEvent<HTMLTableCellElement>, columns: number, rows: number): void => {
    const line = event.currentTarget.parentElement as HTMLTableRowElement;
    const column = event.currentTarget.cellIndex + columns;
    let next: Element | null = line;
    // Heads of effects have no cells.
    do next = rows > 0 ? next!.nextElementSibling : rows < 0 ? next!.previousElementSibling : next;
    while (next?.matches('[data-group]'));
    (next as HTMLTableRowElement | null)?.cells[column]?.focus();
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <td
      role="gridcell"
      tabIndex={0}
      aria-label={`${label}: ${text}${ease ? `, key, ${easeName(ease)}` : ''}${past ? ', past its limit' : ''}`}
      data-at={at}
      data-cell={rowId(row)}
      data-key={ease ? '' : undefined}
      className={`relative h-6 cursor-ns-resize border-b border-l border-rope p-0 text-center select-none ${at === 0 ? 'bg-lamp/10' : ''} ${ease ? 'bg-tide/30' : ''}`}
      style={{ minWidth: CELL, maxWidth: CELL }}
      onFocus={() => chooseRow(row, at)}
      onPointerDown={(event) => {
        if (event.button !== 0 || typing !== null) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = { y: event.clientY, value: set, moved: false, paint: useShaping.getState().painting, at };
      }}
      onPointerMove={(event) => {
        const from = drag.current;
        if (!from) return;
        if (from.paint) {
          const under = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-cell]');
          if (under && (under !== event.currentTarget || from.moved)) {
            const to = Number(under.dataset['at']);
            // A quick stroke skips cells: those between are painted too.
            for (let frame = from.at; frame !== to; frame += Math.sign(to - frame))
              onPaint(under.dataset['cell']!, frame, from.value);
            onPaint(under.dataset['cell']!, to, from.value);
            Object.assign(from, { moved: true, at: to });
          }
          return;
        }
        const by = Math.round((from.y - event.clientY) / 2) * step * (event.shiftKey ? 0.2 : 1);
        if (by === 0 && !from.moved) return;
        from.moved = true;
        onValue(Math.round((from.value + by) * 100) / 100, true);
      }}
      onPointerUp={() => (drag.current = null)}
      onDoubleClick={() => setTyping(shown(set))}
      onKeyDown={(event) => {
        if (typing !== null || event.ctrlKey || event.metaKey) return;
        if (event.key === 'Delete' || event.key === 'Backspace') onDrop();
        else if (event.key === 'Enter') setTyping(shown(set));
        else if (/^[-0-9.]$/.test(event.key)) setTyping(event.key);
        else if (event.key === 'e' && ease)
          onEase(EASING_NAMES[(EASING_NAMES.indexOf(ease as never) + 1) % EASING_NAMES.length]!);
        else if (event.key === '+') onValue(set + step, true);
        else if (event.key === 'ArrowRight') return move(event, 1, 0);
        else if (event.key === 'ArrowLeft') return move(event, -1, 0);
        else if (event.key === 'ArrowUp') return move(event, 0, -1);
        else if (event.key === 'ArrowDown') return move(event, 0, 1);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {curve}
      {typing === null ? (
        <span
          className={`mono relative text-[11px] ${past ? 'text-ember underline' : ease ? 'font-semibold text-sail' : 'text-fog'}`}
        >
          {text}
        </span>
      ) : (
        <input
          autoFocus
          className="mono relative w-full bg-night text-center text-[11px]"
          aria-label={`New value of ${label}`}
          value={typing}
          onChange={(event) => setTyping(event.currentTarget.value)}
          onBlur={finish}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') finish();
            if (event.key === 'Escape') setTyping(null);
          }}
        />
      )}
      {ease && (
        <span aria-hidden className="absolute top-0 right-0.5 text-[8px] leading-3 text-lamp" title={easeName(ease)}>
          {EASE_MARKS[easeName(ease)] ?? '≀'}
        </span>
      )}
    </td>
  );
}
