/** Draws a rectangle on the picture that is then watched. */
import { useState, type PointerEvent } from 'react';
import type { Region } from '../../core/document/types.ts';
import { useDerived } from '../stores/derived.ts';
import { watchFor } from '../stores/watching.ts';
import { notice, useView } from '../stores/view.ts';

interface Corner {
  readonly x: number;
  readonly y: number;
}

/** Smallest side of a rectangle, as a share of the picture. */
const SMALLEST = 0.01;

/**
 * From shares of the montage's picture to shares of the source's, which is fitted into it or fills it.
 * @param ratio the source's aspect over the montage's
 */
export function inSource({ x, y, w, h }: Region, ratio: number, fit: 'fit' | 'fill'): Region | null {
  const wide = fit === 'fit' ? ratio > 1 : ratio < 1;
  // Size of the source in shares of the montage's picture, centred.
  const [sw, sh] = wide ? [1, 1 / ratio] : [ratio, 1];
  const clamp = (value: number): number => Math.min(1, Math.max(0, value));
  const [left, right] = [clamp((x - (1 - sw) / 2) / sw), clamp((x + w - (1 - sw) / 2) / sw)];
  const [top, bottom] = [clamp((y - (1 - sh) / 2) / sh), clamp((y + h - (1 - sh) / 2) / sh)];
  return right - left < SMALLEST || bottom - top < SMALLEST
    ? null
    : { x: left, y: top, w: right - left, h: bottom - top };
}

const between = (a: Corner, b: Corner): Region => ({
  x: Math.min(a.x, b.x),
  y: Math.min(a.y, b.y),
  w: Math.abs(a.x - b.x),
  h: Math.abs(a.y - b.y),
});

export function RegionDrawer() {
  const { drawing, playhead } = useView();
  const derived = useDerived();
  const [from, setFrom] = useState<Corner | null>(null);
  const [to, setTo] = useState<Corner | null>(null);
  if (!drawing || !derived) return null;
  const picture = (): DOMRect | undefined => document.querySelector('[data-stage]')?.getBoundingClientRect();
  const corner = (event: PointerEvent): Corner => {
    const box = picture()!;
    return {
      x: Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)),
      y: Math.min(1, Math.max(0, (event.clientY - box.top) / box.height)),
    };
  };
  const done = (): void => {
    const span = derived.line.spanAt(playhead);
    const source = derived.montage.sources.find((s) => s.id === span?.clip.source);
    const times = span && derived.media.get(span.clip.source);
    setFrom(null);
    setTo(null);
    if (!from || !to) return;
    useView.setState({ drawing: null });
    if (!span || !source?.video || !times) return notice('No footage stands at the playhead.', 'error');
    const { width, height } = derived.montage.settings;
    const region = inSource(
      between(from, to),
      source.video.width / source.video.height / (width / height),
      span.clip.fit,
    );
    if (!region) return notice('The rectangle is too small, or beside the picture.', 'error');
    const name = `${drawing === 'appears' ? 'Sign' : 'Change'} ${derived.montage.watches.length + 1}`;
    void watchFor(source, region, times.timeOf(derived.line.sourceFrame(span, playhead)), drawing, name);
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
