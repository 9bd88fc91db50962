/** The whole montage as a shoreline: sound below, hits standing in it by strength, accents lying over it. */
import { useEffect, useMemo, useRef, useState } from 'react';
import { ZoomIn, ZoomOut } from 'lucide-react';
import { timecode } from '../../core/base/time.ts';
import type { SoundSignals } from '../../core/finding/signals/types.ts';
import { choose, seek, seekLikeBetween, step } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { useMedia } from '../stores/media.ts';
import { useView } from '../stores/view.ts';
import { KIND_COLOURS, hitLook } from './kinds.ts';
import { RowLanes } from './row-lanes.tsx';
import {
  boundView,
  frameToX,
  rulerStep,
  waveform,
  wholeView,
  xToFrame,
  zoomView,
  type View,
} from './landscape-math.ts';

const HEIGHT = 116;
const GROUND = 88;

export function Landscape({ lanes = false }: { lanes?: boolean }) {
  const derived = useDerived();
  const { playhead, chosen, view: wanted } = useView();
  const signals = useMedia((s) => s.signals);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(1000);
  /** Frames between which a sound is being marked, with fractions. */
  const [marked, setMarked] = useState<readonly [number, number] | null>(null);

  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(Math.max(100, Math.floor(entry!.contentRect.width))));
    observer.observe(canvas.current!.parentElement!);
    return () => observer.disconnect();
  }, []);

  const count = derived?.line.count ?? 0;
  const view: View = useMemo(() => (wanted ? boundView(wanted, count) : wholeView(count)), [wanted, count]);
  const sounds = useMemo(
    () =>
      new Map<string, SoundSignals>(
        Object.entries(signals).flatMap(([id, s]) => {
          // The sound that is heard, else any.
          const heard = derived?.montage.sources.find((source) => source.id === id)?.listen;
          const sound =
            (heard === null || heard === undefined ? undefined : s.sounds[heard]) ?? Object.values(s.sounds)[0];
          return sound ? [[id, sound] as const] : [];
        }),
      ),
    [signals, derived?.montage.sources],
  );
  const line = derived?.line;
  const wave = useMemo(() => (line ? waveform(line, view, width, sounds) : null), [line, view, width, sounds]);

  useEffect(() => {
    if (!derived || !canvas.current || !wave) return;
    const scale = devicePixelRatio;
    canvas.current.width = width * scale;
    canvas.current.height = HEIGHT * scale;
    const pen = canvas.current.getContext('2d')!;
    pen.scale(scale, scale);
    const x = (frame: number): number => frameToX(frame, view, width);
    // Clips as stretches of ground with a gap at each join.
    for (const span of derived.line.spans) {
      pen.fillStyle = span.index % 2 ? '#18262d' : '#15222a';
      pen.fillRect(x(span.first) + 1, 18, Math.max(1, x(span.end) - x(span.first) - 2), HEIGHT - 18);
      pen.fillStyle = '#6f868e';
      pen.font = '11px "Inter Variable", sans-serif';
      const name = derived.montage.sources.find((s) => s.id === span.clip.source)?.name ?? '';
      // Where the clips themselves are shown below, they have their names.
      if (!lanes)
        pen.fillText(name, Math.max(4, x(span.first) + 6), HEIGHT - 5, Math.max(1, x(span.end) - x(span.first) - 10));
    }
    pen.fillStyle = '#33525c';
    for (let i = 0; i < width; i++) {
      const h = wave[i]! * 46;
      if (h > 0.3) pen.fillRect(i, GROUND - h, 1, h + Math.min(6, h * 0.3));
    }
    // Where accents lie.
    pen.fillStyle = 'rgba(88,194,188,0.35)';
    for (const p of derived.planner.placements) {
      if (p.muted) continue;
      const from = x(p.from);
      pen.fillRect(from, GROUND + 1, Math.max(2, x(p.to + 1) - from), 5);
    }
    const rule = rulerStep(view, width, derived.line.fps);
    pen.font = '10.5px "JetBrains Mono Variable", monospace';
    for (let f = Math.ceil(view[0] / rule) * rule; f < view[1]; f += rule) {
      pen.fillStyle = '#2c4049';
      pen.fillRect(x(f), 0, 1, 16);
      pen.fillStyle = '#9db2b8';
      pen.fillText(rule < derived.line.fps ? String(f) : timecode(f, derived.line.rate), x(f) + 4, 11);
    }
    // The beat grid as small ticks under the ruler, whether or not beats are listed.
    pen.fillStyle = KIND_COLOURS.beat;
    for (const { hit, frame } of derived.everywhere)
      if (hit.kind === 'beat' && hit.state !== 'rejected')
        pen.fillRect(x(frame), 18, hit.strength === 1 ? 2 : 1, hit.strength === 1 ? 7 : 4);
    // Hits: a stem as tall as the hit is strong, with a lamp on top once it is kept.
    for (const { key, hit, frame } of derived.shown) {
      if (frame < view[0] - 1 || frame > view[1] + 1) continue;
      const at = x(frame) + Math.max(0, x(1) - x(0)) / 2;
      const top = GROUND - 8 - hit.strength * 48;
      const kept = hit.state === 'kept' || hit.state === 'made';
      pen.globalAlpha = hit.state === 'rejected' ? 0.25 : kept ? 1 : 0.65;
      pen.strokeStyle = pen.fillStyle = hitLook(hit, derived.montage.families).colour;
      pen.lineWidth = key === chosen ? 2.5 : 1.25;
      pen.beginPath();
      pen.moveTo(at, GROUND);
      pen.lineTo(at, top);
      pen.stroke();
      pen.beginPath();
      pen.arc(at, top, key === chosen ? 5 : 3.2, 0, 7);
      if (kept) pen.fill();
      else pen.stroke();
      pen.globalAlpha = 1;
    }
    if (marked) {
      pen.fillStyle = 'rgba(242,165,65,0.28)';
      pen.fillRect(x(Math.min(...marked)), 16, Math.max(1, x(Math.max(...marked)) - x(Math.min(...marked))), HEIGHT);
    }
    const head = x(playhead);
    pen.fillStyle = 'rgba(233,238,233,0.16)';
    pen.fillRect(head, 16, Math.max(1, x(1) - x(0)), HEIGHT);
    pen.fillStyle = '#e9eee9';
    pen.fillRect(head, 0, 1.5, HEIGHT);
  }, [derived, wave, view, width, playhead, chosen, marked, lanes]);

  if (!derived) return null;
  const zoom = (factor: number, anchor = playhead): void =>
    useView.setState({ view: zoomView(view, factor, anchor, count) });
  const at = (event: { clientX: number }): number =>
    xToFrame(event.clientX - canvas.current!.getBoundingClientRect().left, view, width);
  const pick = (event: React.PointerEvent): void => {
    const near = derived.shown
      .map((o) => ({ o, gap: Math.abs(frameToX(o.frame, view, width) - frameToX(at(event) - 0.5, view, width)) }))
      .sort((a, b) => a.gap - b.gap)[0];
    const y = event.clientY - canvas.current!.getBoundingClientRect().top;
    if (near && near.gap < 6 && y > 18) choose(near.o);
    else seek(Math.floor(at(event)));
  };
  return (
    <section aria-label="Landscape of the montage" className="flex items-stretch border-t border-rope bg-night">
      <div className="flex flex-col justify-center gap-1 px-1.5">
        <button className="key-quiet" aria-label="Closer" title="Closer" onClick={() => zoom(0.5)}>
          <ZoomIn size={15} />
        </button>
        <button className="key-quiet" aria-label="Wider" title="Wider" onClick={() => zoom(2)}>
          <ZoomOut size={15} />
        </button>
        <button className="key-quiet text-[11px]" onClick={() => useView.setState({ view: null })}>
          All
        </button>
      </div>
      <div className="min-w-0 grow">
        <canvas
          ref={canvas}
          className="block w-full cursor-pointer"
          style={{ height: HEIGHT }}
          role="slider"
          tabIndex={0}
          aria-label="Playhead"
          title="Shift and drag: find all that sounds like this stretch"
          aria-valuemin={0}
          aria-valuemax={Math.max(0, count - 1)}
          aria-valuenow={playhead}
          aria-valuetext={`${timecode(playhead, derived.line.rate)}, ${derived.shown.length} hits`}
          onKeyDown={(event) => {
            const by = { ArrowRight: 1, ArrowLeft: -1, PageDown: 30, PageUp: -30 }[event.key];
            if (!by || event.altKey || event.shiftKey) return;
            event.preventDefault();
            event.stopPropagation();
            step(by);
          }}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            if (event.shiftKey) setMarked([at(event), at(event)]);
            else pick(event);
          }}
          onPointerUp={() => {
            if (!marked) return;
            const { line } = derived;
            const seconds = (frame: number): number =>
              line.timeOf(Math.floor(frame)) +
              (frame % 1) * (line.timeOf(Math.floor(frame) + 1) - line.timeOf(Math.floor(frame)));
            setMarked(null);
            seekLikeBetween(seconds(Math.min(...marked)), seconds(Math.max(...marked)));
          }}
          onPointerMove={(event) => {
            if (marked) setMarked([marked[0], at(event)]);
            else if (
              event.buttons & 1 &&
              event.currentTarget.hasPointerCapture(event.pointerId) &&
              Math.abs(event.movementX) > 0
            )
              seek(Math.floor(at(event)));
          }}
          onWheel={(event) => {
            if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
              const by = ((view[1] - view[0]) * (event.deltaX || event.deltaY)) / 1500;
              useView.setState({ view: boundView([view[0] + by, view[1] + by], count) });
            } else zoom(event.deltaY > 0 ? 1.25 : 0.8, at(event));
          }}
        />
        {lanes && derived.line.count > 0 && <RowLanes view={view} width={width} />}
      </div>
    </section>
  );
}
