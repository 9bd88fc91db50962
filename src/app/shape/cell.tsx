/** One cell of the ladder: the value of a row on a frame. */
import { useRef, useState, type ReactNode } from 'react';
import type { ParamSpec } from '../../core/accents/effect-spec.ts';
import { EASING_NAMES, type Easing } from '../../core/document/types.ts';
import type { PlacedAccent } from '../../core/accents/plan.ts';
import { dragStep, shown, type RowInfo } from './rows.ts';
import { chooseRow, rowId, useShaping } from './shaping.ts';

/** Pixels of its width. */
export const CELL = 54;

interface CellProps {
  at: number;
  /** It is on the hit's frame. */
  hit: boolean;
  placed: PlacedAccent;
  row: RowInfo;
  rows: readonly RowInfo[];
  spec: ParamSpec;
  /** It is picked with others. */
  picked: boolean;
  label: string;
  /** What is drawn, generators included, and what is set. */
  value: number;
  set: number;
  ease: Easing | null;
  /** The row's curve, drawn from its first cell on. */
  curve: ReactNode;
  /** @param from the rows as they were when a drag began; null: the value was typed */
  onValue(value: number, from: readonly RowInfo[] | null): void;
  onDrop(): void;
  onEase(ease: Easing): void;
  onCopy(): void;
  onPaste(): void;
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

const ARROWS: Readonly<Record<string, readonly [columns: number, rows: number]>> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/**
 * Drag up or down to change, type a number, Delete removes the key, E goes through the easings.
 * Enter goes on to the next frame, Shift picks several cells, Ctrl C and V copy them.
 * A filled cell holds a key; the fill shows the value between the limits.
 */
export function Cell(props: CellProps) {
  const { at, hit, placed, row, rows, value, set, ease, spec, picked, label, curve } = props;
  const { onValue, onDrop, onEase, onPaint, onCopy, onPaste } = props;
  const [typing, setTyping] = useState<string | null>(null);
  const drag = useRef<{
    y: number;
    value: number;
    moved: boolean;
    paint: boolean;
    at: number;
    rows: readonly RowInfo[];
  } | null>(null);
  const givenUp = useRef(false);
  const self = useRef<HTMLTableCellElement>(null);
  const step = dragStep(spec);
  const within = Math.min(spec.max, Math.max(spec.min, value));
  const past = within !== value;
  const text = spec.choices ? (spec.choices[Math.round(within)] ?? shown(within)) : shown(within);
  const finish = (): void => {
    const number = Number(typing?.replace(',', '.'));
    if (!givenUp.current && typing !== null && typing.trim() !== '' && Number.isFinite(number)) onValue(number, null);
    givenUp.current = false;
    setTyping(null);
  };
  /** Goes to a cell beside this one; with `pick` all cells on the way from where picking began are picked. */
  const go = (columns: number, rows: number, pick = false): void => {
    const line = self.current!.parentElement as HTMLTableRowElement;
    let next: Element | null = line;
    // Heads of effects have no cells.
    do next = rows > 0 ? next!.nextElementSibling : rows < 0 ? next!.previousElementSibling : next;
    while (next?.matches('[data-group]'));
    const cell = (next as HTMLTableRowElement | null)?.cells[self.current!.cellIndex + columns];
    const to = cell?.dataset['cell'] ? cell : self.current!;
    const here = { row: rowId(row), at };
    const { picked: now } = useShaping.getState();
    useShaping.setState({
      picked: pick ? { from: now?.from ?? here, to: { row: to.dataset['cell']!, at: Number(to.dataset['at']) } } : null,
    });
    to.focus();
  };
  return (
    <td
      ref={self}
      role="gridcell"
      tabIndex={0}
      aria-selected={picked}
      aria-label={`${label}: ${text}${ease ? `, key, ${easeName(ease)}` : ''}${past ? ', past its limit' : ''}`}
      data-at={at}
      data-cell={rowId(row)}
      data-key={ease ? '' : undefined}
      className={`relative h-6 cursor-ns-resize border-b border-l border-rope p-0 text-center select-none ${hit ? 'bg-lamp/10' : ''} ${ease ? 'bg-tide/30' : ''} ${picked ? 'outline-2 -outline-offset-2 outline-sail' : ''}`}
      style={{ minWidth: CELL, maxWidth: CELL }}
      onFocus={() => chooseRow(row, at, placed)}
      onPointerDown={(event) => {
        if (event.button !== 0 || typing !== null) return;
        const { picked: now, row: last, at: lastAt } = useShaping.getState();
        if (event.shiftKey) {
          // Focus may come late: what it would end is begun from the cell before.
          const from = now?.from ?? (last ? { row: rowId(last), at: lastAt } : { row: rowId(row), at });
          useShaping.setState({ picked: { from, to: { row: rowId(row), at } } });
          return;
        }
        if (!picked) useShaping.setState({ picked: null });
        event.currentTarget.setPointerCapture(event.pointerId);
        const { painting } = useShaping.getState();
        drag.current = { y: event.clientY, value: set, moved: false, paint: painting, at, rows };
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
        onValue(Math.round((from.value + by) * 100) / 100, from.rows);
      }}
      onPointerUp={() => (drag.current = null)}
      onDoubleClick={() => setTyping(shown(set))}
      onKeyDown={(event) => {
        if (typing !== null) return;
        const arrow = ARROWS[event.key];
        if (event.ctrlKey || event.metaKey) {
          if (event.key === 'c') onCopy();
          else if (event.key === 'v') onPaste();
          else return;
        } else if (event.altKey) return;
        else if (arrow) go(arrow[0], arrow[1], event.shiftKey);
        else if (event.key === 'Delete' || event.key === 'Backspace') onDrop();
        else if (event.key === 'Enter' || event.key === 'F2') setTyping(shown(set));
        else if (/^[-0-9.,]$/.test(event.key)) setTyping(event.key);
        else if (event.key === 'e' && ease)
          onEase(EASING_NAMES[(EASING_NAMES.indexOf(ease as never) + 1) % EASING_NAMES.length]!);
        else if (event.key === '+') onValue(set + step, rows);
        else if (event.key === 'Escape' && useShaping.getState().picked) useShaping.setState({ picked: null });
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
            // Leaving the field is what sets the value.
            if (event.key === 'Enter') go(event.shiftKey ? -1 : 1, 0);
            else if (event.key === 'Escape') {
              givenUp.current = true;
              self.current!.focus();
            }
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
