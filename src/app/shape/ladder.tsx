/** The frame ladder: frames across, parameters down, values in the cells. */
import { Fragment, useEffect, useState, type ReactNode } from 'react';
import { Brush, ChevronDown, ChevronRight } from 'lucide-react';
import { copiedCells, pastedCells, RELATIONS } from '../../core/accents/cells.ts';
import { endedIn, evaluate } from '../../core/accents/envelope.ts';
import { shownValues } from '../../core/accents/passes.ts';
import { keyOn } from '../../core/accents/prepare.ts';
import { together } from '../../core/document/edits.ts';
import { isMoved, replaced } from '../../core/document/params.ts';
import type { Envelope, Param } from '../../core/document/types.ts';
import { EFFECTS } from '../../effects/index.ts';
import { useWindowSize } from '../parts/use-size.ts';
import { EdgeHandle } from '../parts/edge-handle.tsx';
import { FramePicture } from '../parts/frame-picture.tsx';
import { seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { COMPARE_KEY } from '../stores/keys.ts';
import { edit } from '../stores/montage.ts';
import { usePreferences, useView } from '../stores/view.ts';
import { Cell, CELL } from './cell.tsx';
import { pickedCells, put, rekey, rowEnvelope, rowsOf, rowsWith, shown, type RowInfo } from './rows.ts';
import { changeRow, chooseRow, frameName, rowId, usePlacedAccent, useShapedFrame, useShaping } from './shaping.ts';
import type { ShapedAccent } from './shaping.ts';

/** Frames shown at once of accents that last until something far away. */
const MOST_COLUMNS = 160;

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
          aria-multiselectable
          onKeyDown={keepKeys}
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
                <Together rows={rows} />
                <ShapedFrame shaped={shaped} />
              </th>
              {columns.map((at) => {
                const place = placed.frame + at;
                return (
                  <ColumnHead key={at} name={frameName(at, shaped)} place={place}>
                    {place >= 0 && place < derived.line.count && (
                      <FramePicture
                        frame={place}
                        width={108}
                        height={Math.round((108 * height) / width)}
                        plain={false}
                        audition={audition}
                        label={`Frame ${Number(frameName(at, shaped))} with the accent`}
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

/** Letters and arrows that are typed in the ladder stay in it: they neither play nor move the playhead. */
function keepKeys(event: React.KeyboardEvent): void {
  const { key, ctrlKey, metaKey, altKey } = event;
  if (ctrlKey || metaKey || altKey || key === 'Tab' || key === 'Escape' || key === COMPARE_KEY) return;
  event.stopPropagation();
  const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: 0, ArrowDown: 0 }[key];
  const head = (event.target as HTMLElement).closest('th');
  if (step === undefined || !head) return;
  // From the heads of columns and rows along them, and down into the cells.
  event.preventDefault();
  const row = head.parentElement as HTMLTableRowElement;
  const firstRow = row.closest('table')!.querySelector<HTMLTableRowElement>('tr[data-row]');
  const beside = (): HTMLElement | null | undefined => {
    if (step !== 0) return row.cells[head.cellIndex + step];
    if (key === 'ArrowDown' && row.closest('thead')) return firstRow?.cells[head.cellIndex];
    const next = key === 'ArrowDown' ? row.nextElementSibling : row.previousElementSibling;
    return next?.querySelector<HTMLElement>('th');
  };
  const next = beside();
  (next?.matches('td') ? next : next?.querySelector<HTMLElement>('button'))?.focus();
}

/** Which frame is shaped, by its name everywhere; kept for as long as the montage plays. */
function ShapedFrame({ shaped }: { shaped: ShapedAccent }) {
  const at = useShapedFrame();
  const off = useView((s) => !s.playing && s.playhead !== shaped.placed.frame + at);
  useEffect(() => useShaping.setState({ at }), [at]);
  return (
    <span className="block font-normal normal-case" data-shaped-frame={frameName(at, shaped)} aria-live="polite">
      {off ? (
        <button className="key-quiet px-0 text-lamp" onClick={() => seek(shaped.placed.frame + at)}>
          Picture is off the accent: go to {frameName(at, shaped)}
        </button>
      ) : (
        <>
          frame <b className="mono text-sail">{frameName(at, shaped)}</b> from the hit
        </>
      )}
    </span>
  );
}

const RELATION_NAMES = { ratio: 'by the same factor', difference: 'by the same amount' } as const;

/** How ticked rows change with each other. */
function Together({ rows }: { rows: readonly RowInfo[] }) {
  const count = useShaping((s) => rows.filter((row) => s.also.has(rowId(row))).length);
  const relation = useShaping((s) => s.relation);
  if (count < 2) return null;
  return (
    <label className="flex items-center gap-1 font-normal normal-case">
      {count} rows change
      <select
        className="field py-0"
        aria-label="How ticked rows change together"
        value={relation}
        onChange={(event) => useShaping.setState({ relation: event.currentTarget.value as typeof relation })}
      >
        {RELATIONS.map((name) => (
          <option key={name} value={name}>
            {RELATION_NAMES[name]}
          </option>
        ))}
      </select>
    </label>
  );
}

/** A frame of the accent; the one under the playhead is marked without drawing the others anew. */
function ColumnHead({ name, place, children }: { name: string; place: number; children: ReactNode }) {
  const here = useView((s) => s.playhead === place);
  const hit = name === '0';
  return (
    <th scope="col" className="sticky top-0 z-10 bg-deck p-px align-bottom" style={{ minWidth: CELL, maxWidth: CELL }}>
      <button
        className={`block w-full border ${here ? 'border-sail' : hit ? 'border-lamp' : 'border-transparent'}`}
        aria-label={`Go to frame ${Number(name)} of the accent`}
        aria-current={here || undefined}
        onClick={() => seek(place)}
      >
        {children}
        <span
          className={`mono block text-[11px] font-normal ${hit ? 'bg-lamp text-night' : here ? 'bg-sail text-night' : 'text-fog'}`}
        >
          {name}
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

/** Copies what is picked, or the one cell. */
function copyCells({ places }: ShapedAccent, rows: readonly RowInfo[], row: RowInfo, at: number): void {
  const { rows: taken, from, to } = pickedCells(rows, row, at);
  useShaping.setState({ copiedCells: taken.map((r) => copiedCells(rowEnvelope(r), places, from, to)) });
}

/** Puts copied cells from a cell on: row for row, or one row on all that are picked or ticked with it. */
function pasteCells({ accent, places }: ShapedAccent, rows: readonly RowInfo[], row: RowInfo, at: number): void {
  const { copiedCells: copied } = useShaping.getState();
  if (!copied) return;
  const { rows: taken, from } = pickedCells(rows, row, at);
  const first = rows.findIndex((r) => rowId(r) === rowId(taken[0]!));
  const onto = copied.length > 1 ? rows.slice(first, first + copied.length) : rowsWith(rows, row);
  edit(
    together(
      onto.map((r, i) =>
        changeRow(accent.id, r, (e) => pastedCells(e, places, from, copied[i % copied.length]!, r.spec)),
      ),
    ),
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
  const picked = useShaping((s) => s.picked);
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
  const inPicked = (at: number): boolean => {
    if (!picked) return false;
    const { rows: taken, from, to } = pickedCells(rows, row, at);
    return (to > from || taken.length > 1) && at >= from && at <= to;
  };
  const quiet = !keyed && !moved && envelope === (identity ?? spec.default);
  const change = (work: (envelope: Envelope, row: RowInfo) => Envelope): void =>
    edit(together(rowsWith(rows, row).map((r) => changeRow(accent.id, r, (e) => work(e, r)))));
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
              chooseRow(row, useShaping.getState().at, placed);
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
                change((e, { spec: { identity } }) =>
                  identity === undefined
                    ? e
                    : endedIn(e, identity, places.lead > 0 ? places.at(-places.lead) : 0, places.at(places.tail)),
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
              onClick={() => change((e, r) => r.spec.identity ?? evaluate(replaced(e, places.of), 0))}
            >
              clear
            </button>
          )}
        </span>
      </th>
      {columns.map((at, i) => {
        const key = keyOn(envelope, places, at);
        const name = frameName(at, shaped);
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
            label={`${effect} ${label} at ${Number(name)}`}
            hit={name === '0'}
            placed={placed}
            row={row}
            rows={rows}
            picked={inPicked(at)}
            onValue={(value, from) => {
              const then = from?.find((r) => rowId(r) === rowId(row)) ?? row;
              edit(put(shaped, from ?? rows, then, at, value, from === null), from ? `${rowId(row)}/${at}` : undefined);
            }}
            onPaint={(id, frame, value) => {
              const other = rows.find((r) => rowId(r) === id);
              if (other) edit(put(shaped, rows, other, frame, value, true), `paint-${accent.id}`);
            }}
            onDrop={() => edit(rekey(shaped, rows, row, at, () => null))}
            onEase={(ease) => edit(rekey(shaped, rows, row, at, (k) => ({ ...k, ease })))}
            onCopy={() => copyCells(shaped, rows, row, at)}
            onPaste={() => pasteCells(shaped, rows, row, at)}
          />
        );
      })}
    </tr>
  );
}
