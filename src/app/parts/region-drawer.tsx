/** Draws a rectangle on the picture that is then watched, or shielded from accents; what is shielded can have any outline. */
import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { nanoid } from 'nanoid';
import { updateSource } from '../../core/document/edits.ts';
import { LIMITS } from '../../core/document/limits.ts';
import type { Region, Source } from '../../core/document/types.ts';
import { useDerived } from '../stores/derived.ts';
import { shownAt, type Shown } from '../stores/focus.ts';
import { edit } from '../stores/montage.ts';
import { watchFor } from '../stores/watching.ts';
import { notice, useView } from '../stores/view.ts';

interface Corner {
  readonly x: number;
  readonly y: number;
}

/** Smallest side of a rectangle, as a share of the picture. */
const SMALLEST = 0.01;

const held = (value: number): number => Math.min(1, Math.max(0, value));

/** A rectangle on the screen, in shares of what is shown, as one of the source's picture; null where it is beside it. */
function inSource({ x, y, w, h }: Region, { toSource }: Shown): Region | null {
  const [from, to] = [toSource({ x, y }), toSource({ x: x + w, y: y + h })];
  const [left, top, right, bottom] = [held(from.x), held(from.y), held(to.x), held(to.y)];
  return right - left < SMALLEST || bottom - top < SMALLEST
    ? null
    : { x: left, y: top, w: right - left, h: bottom - top };
}

/** Softness of the edge of a new one, share of the picture's height. */
const SOFT = 0.02;

function addShield(source: Source, region: Region, path?: readonly Corner[]): void {
  const shield = { id: nanoid(8), region, soft: SOFT, ...(path && { path: [...path] }) };
  edit(updateSource(source.id, { shields: [...(source.shields ?? []), shield] }));
  notice('Accents leave this area as it is.');
}

/** An outline on the screen as one of the source's picture, with the rectangle around it. */
function outlineInSource(points: readonly Corner[], shown: Shown): { region: Region; path: Corner[] } | null {
  const path = points.map(shown.toSource).map(({ x, y }) => ({ x: held(x), y: held(y) }));
  const [xs, ys] = [path.map(({ x }) => x), path.map(({ y }) => y)];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [w, h] = [Math.max(...xs) - left, Math.max(...ys) - top];
  return w < SMALLEST || h < SMALLEST ? null : { region: { x: left, y: top, w, h }, path };
}

const between = (a: Corner, b: Corner): Region => ({
  x: Math.min(a.x, b.x),
  y: Math.min(a.y, b.y),
  w: Math.abs(a.x - b.x),
  h: Math.abs(a.y - b.y),
});

export function RegionDrawer() {
  const drawing = useView((s) => s.drawing);
  // What one tool began is nothing to another.
  return drawing === 'shield' || drawing === 'appears' || drawing === 'changes' ? (
    <Drawer key={drawing} drawing={drawing} />
  ) : null;
}

function Drawer({ drawing }: { drawing: 'shield' | 'appears' | 'changes' }) {
  const derived = useDerived();
  const area = useRef<HTMLDivElement>(null);
  useEffect(() => area.current?.focus(), []);
  const [from, setFrom] = useState<Corner | null>(null);
  const [to, setTo] = useState<Corner | null>(null);
  const [points, setPoints] = useState<readonly Corner[]>([]);
  if (!derived) return null;
  const picture = (): DOMRect | undefined => document.querySelector('[data-stage]')?.getBoundingClientRect();
  const corner = (event: PointerEvent): Corner => {
    const box = picture()!;
    return {
      x: Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)),
      y: Math.min(1, Math.max(0, (event.clientY - box.top) / box.height)),
    };
  };
  const stop = (): void => useView.setState({ drawing: null });
  const close = (): void => {
    if (points.length < 3) return notice('An outline has three points at least.', 'error');
    const shown = shownAt(derived, useView.getState().playhead);
    const outline = shown && outlineInSource(points, shown);
    stop();
    if (!outline) return notice('The outline is too small, or beside the picture.', 'error');
    addShield(shown!.source, outline.region, outline.path);
  };
  const done = (): void => {
    const shown = shownAt(derived, useView.getState().playhead);
    setFrom(null);
    setTo(null);
    if (!from || !to) return;
    const near = (a: Corner, b: Corner): boolean => Math.hypot(a.x - b.x, a.y - b.y) < SMALLEST;
    // Pressed and not dragged: a point of an outline.
    if (drawing === 'shield' && (points.length || near(from, to))) {
      if (points.length > 2 && near(points[0]!, to)) close();
      else if (points.length < LIMITS.subjectPoints) setPoints([...points, to]);
      return;
    }
    useView.setState({ drawing: null });
    if (!shown) return notice('No footage stands at the playhead.', 'error');
    const region = inSource(between(from, to), shown);
    if (!region) return notice('The rectangle is too small, or beside the picture.', 'error');
    if (drawing === 'shield') return addShield(shown.source, region);
    const name = `${drawing === 'appears' ? 'Sign' : 'Change'} ${derived.montage.watches.length + 1}`;
    void watchFor(shown.source, region, shown.t, drawing, name);
  };
  const box = picture();
  const drawn = from && to && box && !points.length ? between(from, to) : null;
  return (
    <div
      className="absolute inset-0 z-10 cursor-crosshair touch-none"
      data-drawing={drawing}
      ref={area}
      tabIndex={-1}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setFrom(corner(event));
        setTo(corner(event));
      }}
      onPointerMove={(event) => from && setTo(corner(event))}
      onPointerUp={done}
      onKeyDown={(event) => {
        if (event.key === 'Escape') stop();
        else if (drawing !== 'shield') return;
        else if (event.key === 'Enter') close();
        else if (event.key === 'Backspace') setPoints(points.slice(0, -1));
        else return;
        event.preventDefault();
      }}
    >
      {points.length > 0 && box && (
        <svg
          className="pointer-events-none fixed overflow-visible"
          style={{ left: box.left, top: box.top, width: box.width, height: box.height }}
          viewBox="0 0 1 1"
          preserveAspectRatio="none"
        >
          <polygon
            points={points.map(({ x, y }) => `${x},${y}`).join(' ')}
            className="fill-lamp/10 stroke-lamp stroke-2"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
      )}
      {drawn && box && (
        <div
          className="fixed rounded-xs border-2 border-lamp bg-lamp/10"
          style={{
            left: box.left + drawn.x * box.width,
            top: box.top + drawn.y * box.height,
            width: drawn.w * box.width,
            height: drawn.h * box.height,
          }}
        />
      )}
    </div>
  );
}
