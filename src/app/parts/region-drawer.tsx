/** Draws a rectangle on the picture that is then watched, or shielded from accents. */
import { useState, type PointerEvent } from 'react';
import { nanoid } from 'nanoid';
import { updateSource } from '../../core/document/edits.ts';
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

/** A rectangle on the screen, in shares of what is shown, as one of the source's picture; null where it is beside it. */
function inSource({ x, y, w, h }: Region, { toSource }: Shown): Region | null {
  const clamp = (value: number): number => Math.min(1, Math.max(0, value));
  const [from, to] = [toSource({ x, y }), toSource({ x: x + w, y: y + h })];
  const [left, top, right, bottom] = [clamp(from.x), clamp(from.y), clamp(to.x), clamp(to.y)];
  return right - left < SMALLEST || bottom - top < SMALLEST
    ? null
    : { x: left, y: top, w: right - left, h: bottom - top };
}

/** Softness of the edge of a new one, share of the picture's height. */
const SOFT = 0.02;

function addShield(source: Source, region: Region): void {
  edit(updateSource(source.id, { shields: [...(source.shields ?? []), { id: nanoid(8), region, soft: SOFT }] }));
  notice('Accents leave this area as it is.');
}

const between = (a: Corner, b: Corner): Region => ({
  x: Math.min(a.x, b.x),
  y: Math.min(a.y, b.y),
  w: Math.abs(a.x - b.x),
  h: Math.abs(a.y - b.y),
});

export function RegionDrawer() {
  const drawing = useView((s) => s.drawing);
  const derived = useDerived();
  const [from, setFrom] = useState<Corner | null>(null);
  const [to, setTo] = useState<Corner | null>(null);
  if (!derived || (drawing !== 'shield' && drawing !== 'appears' && drawing !== 'changes')) return null;
  const picture = (): DOMRect | undefined => document.querySelector('[data-stage]')?.getBoundingClientRect();
  const corner = (event: PointerEvent): Corner => {
    const box = picture()!;
    return {
      x: Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)),
      y: Math.min(1, Math.max(0, (event.clientY - box.top) / box.height)),
    };
  };
  const done = (): void => {
    const shown = shownAt(derived, useView.getState().playhead);
    setFrom(null);
    setTo(null);
    if (!from || !to) return;
    useView.setState({ drawing: null });
    if (!shown) return notice('No footage stands at the playhead.', 'error');
    const region = inSource(between(from, to), shown);
    if (!region) return notice('The rectangle is too small, or beside the picture.', 'error');
    if (drawing === 'shield') return addShield(shown.source, region);
    const name = `${drawing === 'appears' ? 'Sign' : 'Change'} ${derived.montage.watches.length + 1}`;
    void watchFor(shown.source, region, shown.t, drawing, name);
  };
  const box = picture();
  const drawn = from && to && box ? between(from, to) : null;
  return (
    <div
      className="absolute inset-0 z-10 cursor-crosshair touch-none"
      data-drawing={drawing}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setFrom(corner(event));
        setTo(corner(event));
      }}
      onPointerMove={(event) => from && setTo(corner(event))}
      onPointerUp={done}
      onKeyDown={(event) => event.key === 'Escape' && useView.setState({ drawing: null })}
    >
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
