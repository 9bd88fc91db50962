/** An edge that is dragged, or moved by the arrow keys, to give what lies behind it more room. */
import { useRef } from 'react';
import { usePreferences } from '../stores/view.ts';
import { stepKeys } from './step-keys.ts';

/** Pixels that one press of an arrow moves it. */
const STEP = 20;

const EDGES = {
  /** The upper edge: upwards is larger. */
  top: { keys: { ArrowUp: STEP, ArrowDown: -STEP }, place: 'inset-x-0 -top-1 h-2 cursor-ns-resize' },
  /** The left edge: to the left is larger. */
  left: { keys: { ArrowLeft: STEP, ArrowRight: -STEP }, place: 'inset-y-0 -left-1 w-2 cursor-ew-resize' },
} as const;

interface Props {
  readonly edge: keyof typeof EDGES;
  readonly label: string;
  readonly title: string;
  readonly size: number;
  /** Pixels, both inclusive. */
  readonly limits: readonly [number, number];
  /** The preference that keeps it. */
  readonly keeps: 'landscapeHeight' | 'panelWidth' | 'ladderHeight' | 'stripHeight';
}

export function EdgeHandle({ edge, label, title, size, limits: [least, most], keeps }: Props) {
  const from = useRef<{ at: number; size: number } | null>(null);
  const { keys, place } = EDGES[edge];
  const along = (event: { clientX: number; clientY: number }): number =>
    edge === 'top' ? event.clientY : event.clientX;
  const set = (value: number): void => {
    usePreferences.setState({ [keeps]: Math.min(most, Math.max(least, Math.round(value))) });
  };
  const end = (): void => {
    from.current = null;
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-orientation={edge === 'top' ? 'vertical' : 'horizontal'}
      aria-label={label}
      aria-valuemin={least}
      aria-valuemax={most}
      aria-valuenow={size}
      title={title}
      className={`absolute z-20 touch-none hover:bg-lamp/40 focus-visible:bg-lamp/60 ${place}`}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { at: along(event), size };
      }}
      onPointerMove={(event) => {
        if (from.current) set(from.current.size + from.current.at - along(event));
      }}
      onPointerUp={end}
      onPointerCancel={end}
      onKeyDown={stepKeys(keys, (by) => set(size + by))}
    />
  );
}
