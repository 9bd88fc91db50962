/** The whole montage as a shoreline: sound below, hits standing in it by strength, accents lying under it. */
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { ZoomIn, ZoomOut } from 'lucide-react';
import { timecode } from '../../core/base/time.ts';
import type { SoundSignals } from '../../core/finding/signals/types.ts';
import { choose, chooseNext, seek, seekLikeBetween, step } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { ACCENT_TYPE, layAt } from '../stores/laying.ts';
import { useMedia } from '../stores/media.ts';
import { useRestedDerived } from '../stores/rested.ts';
import { useRuleChange } from '../stores/rule-change.ts';
import { usePreferences, useView } from '../stores/view.ts';
import { drawPlacements, drawScene, pinsOf } from './draw.ts';
import { boundView, frameToX, waveform, wholeView, xToFrame, zoomView, type View } from './geometry.ts';
import { Head } from './head.tsx';
import { Overview } from './overview.tsx';
import { EdgeHandle } from '../parts/edge-handle.tsx';
import { useWidth } from '../parts/use-size.ts';
import { RowLanes } from './row-lanes.tsx';

/** Heights between which the landscape can be dragged, pixels. */
const LOWEST = 72;
const TALLEST = 360;

/** A pen in CSS pixels on a canvas of a size, as sharp as the screen. */
function penOn(canvas: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D {
  const scale = devicePixelRatio;
  if (canvas.width !== width * scale) canvas.width = width * scale;
  if (canvas.height !== height * scale) canvas.height = height * scale;
  const pen = canvas.getContext('2d')!;
  pen.setTransform(scale, 0, 0, scale, 0, 0);
  return pen;
}

/** The accents' own layer: they follow when the hand rests, and hold nothing up. */
function Accents({ view, width, height }: { view: View; width: number; height: number }) {
  const derived = useRestedDerived();
  const change = useRuleChange();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (derived) drawPlacements(penOn(canvas.current!, width, height), { derived, view, width, height, change });
  }, [derived, view, width, height, change]);
  return <canvas ref={canvas} aria-hidden className="pointer-events-none absolute inset-0 w-full" style={{ height }} />;
}

export function Landscape({ lanes = false }: { lanes?: boolean }) {
  const derived = useDerived();
  const chosen = useView((s) => s.chosen);
  const wanted = useView((s) => s.view);
  const signals = useMedia((s) => s.signals);
  const height = usePreferences((s) => Math.min(TALLEST, Math.max(LOWEST, s.landscapeHeight)));
  const canvas = useRef<HTMLCanvasElement>(null);
  const [place, width] = useWidth(1000, 100);
  /** Frames between which a sound is being marked, with fractions. */
  const [marked, setMarked] = useState<readonly [number, number] | null>(null);

  const line = derived?.line;
  const count = line?.count ?? 0;
  const view: View = useMemo(() => (wanted ? boundView(wanted, count) : wholeView(count)), [wanted, count]);
  const sources = derived?.montage.sources;
  const sounds = useMemo(
    () =>
      new Map<string, SoundSignals>(
        Object.entries(signals).flatMap(([id, s]) => {
          // The sound that is heard, else any.
          const heard = sources?.find((source) => source.id === id)?.listen;
          const sound =
            (heard === null || heard === undefined ? undefined : s.sounds[heard]) ?? Object.values(s.sounds)[0];
          return sound ? [[id, sound] as const] : [];
        }),
      ),
    [signals, sources],
  );
  const wave = useMemo(() => (line ? waveform(line, view, width, sounds) : null), [line, view, width, sounds]);

  useLayoutEffect(() => {
    if (!derived || !canvas.current || !wave) return;
    drawScene(penOn(canvas.current, width, height), { derived, view, width, height, wave, chosen, names: !lanes });
  }, [derived, wave, view, width, height, chosen, lanes]);

  // React listens to the wheel passively, and a pinch would enlarge the whole page.
  useEffect(() => {
    const element = canvas.current;
    if (!element || !line) return;
    const turn = (event: WheelEvent): void => {
      event.preventDefault();
      if (!event.ctrlKey && (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))) {
        const by = ((view[1] - view[0]) * (event.deltaX || event.deltaY)) / 1500;
        useView.setState({ view: boundView([view[0] + by, view[1] + by], line.count) });
      } else {
        const at = xToFrame(event.clientX - element.getBoundingClientRect().left, view, width);
        // A pinch comes as a wheel with the control key, in small steps.
        const factor = event.ctrlKey ? Math.exp(event.deltaY / 100) : event.deltaY > 0 ? 1.25 : 0.8;
        useView.setState({ view: zoomView(view, factor, at, line.count) });
      }
    };
    element.addEventListener('wheel', turn, { passive: false });
    return () => element.removeEventListener('wheel', turn);
  }, [view, width, line]);

  if (!derived || !line) return null;
  const zoom = (factor: number): void =>
    useView.setState({ view: zoomView(view, factor, useView.getState().playhead, count) });
  const at = (event: { clientX: number }): number =>
    xToFrame(event.clientX - canvas.current!.getBoundingClientRect().left, view, width);
  const pick = (event: PointerEvent): void => {
    const here = frameToX(at(event) - 0.5, view, width);
    const y = event.clientY - canvas.current!.getBoundingClientRect().top;
    const near = pinsOf(derived.shown, view, width)
      .map((pins) => {
        const [left, right] = [frameToX(pins[0]!.frame, view, width), frameToX(pins.at(-1)!.frame, view, width)];
        return { pins, gap: Math.max(left - here, here - right, 0) };
      })
      .sort((a, b) => a.gap - b.gap)[0];
    if (!near || near.gap >= 6 || y <= 18) seek(Math.floor(at(event)));
    else if (near.pins.length === 1) choose(near.pins[0]!);
    else {
      // Where many stand in one mark, they are given room.
      const [first, last] = [near.pins[0]!.frame, near.pins.at(-1)!.frame];
      const room = Math.max(12, (last - first) * 0.2);
      useView.setState({ view: boundView([first - room, last + room], count) });
      choose(near.pins[0]!);
    }
  };
  const release = (): void => {
    if (!marked) return;
    const seconds = (frame: number): number => {
      const whole = Math.floor(frame);
      return line.timeOf(whole) + (frame - whole) * (line.timeOf(whole + 1) - line.timeOf(whole));
    };
    setMarked(null);
    seekLikeBetween(seconds(Math.min(...marked)), seconds(Math.max(...marked)));
  };
  const stretch = marked && [frameToX(Math.min(...marked), view, width), frameToX(Math.max(...marked), view, width)];
  return (
    <section aria-label="Landscape of the montage" className="relative border-t border-rope bg-night">
      <EdgeHandle
        edge="top"
        label="Height of the landscape"
        title="Drag: a taller landscape"
        size={height}
        limits={[LOWEST, TALLEST]}
        keeps="landscapeHeight"
      />
      <div className="flex items-stretch">
        <div className="flex flex-col justify-center gap-1 px-1.5">
          <button className="key-quiet" aria-label="Zoom in" title="Zoom in" onClick={() => zoom(0.5)}>
            <ZoomIn size={15} />
          </button>
          <button className="key-quiet" aria-label="Zoom out" title="Zoom out" onClick={() => zoom(2)}>
            <ZoomOut size={15} />
          </button>
          <button className="key-quiet text-[11px]" onClick={() => useView.setState({ view: null })}>
            All
          </button>
        </div>
        <div className="min-w-0 grow">
          <div ref={place} className="relative overflow-hidden">
            <canvas
              ref={canvas}
              className="block w-full cursor-pointer"
              style={{ height }}
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                if (event.shiftKey) setMarked([at(event), at(event)]);
                else pick(event);
              }}
              onDragOver={(event) => {
                if (event.dataTransfer.types.includes(ACCENT_TYPE)) event.preventDefault();
              }}
              onDrop={(event) => {
                const accent = event.dataTransfer.getData(ACCENT_TYPE);
                // On the hit that is near, else on a hit of its own.
                if (accent) layAt(accent, Math.floor(at(event)), Math.ceil((6 * (view[1] - view[0])) / width));
              }}
              onPointerUp={release}
              onPointerMove={(event) => {
                if (marked) setMarked([marked[0], at(event)]);
                else if (
                  event.buttons & 1 &&
                  event.currentTarget.hasPointerCapture(event.pointerId) &&
                  Math.abs(event.movementX) > 0
                )
                  seek(Math.floor(at(event)));
              }}
            />
            <Accents view={view} width={width} height={height} />
            {stretch && (
              <div
                className="pointer-events-none absolute top-4 bottom-0 bg-lamp/25"
                style={{ left: stretch[0], width: Math.max(1, stretch[1]! - stretch[0]!) }}
              />
            )}
            <Playhead count={count} hits={derived.shown.length} />
            <Head view={view} width={width} broad />
          </div>
          {lanes && count > 0 && <RowLanes view={view} width={width} />}
          {count > 0 && <Overview view={view} width={width} />}
        </div>
      </div>
    </section>
  );
}

/** The playhead for keyboard and screen reader; it follows by itself, without drawing the landscape anew. */
function Playhead({ count, hits }: { count: number; hits: number }) {
  const playhead = useView((s) => s.playhead);
  const rate = useDerived()!.line.rate;
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Playhead"
      title="Shift and drag: find all that sounds like this stretch"
      aria-valuemin={0}
      aria-valuemax={Math.max(0, count - 1)}
      aria-valuenow={playhead}
      aria-valuetext={`${timecode(playhead, rate)}, ${hits} hits`}
      className="pointer-events-none absolute inset-0"
      onKeyDown={(event: KeyboardEvent) => {
        const by = { ArrowRight: 1, ArrowLeft: -1, PageDown: 30, PageUp: -30 }[event.key];
        const hits = { ArrowDown: 1 as const, ArrowUp: -1 as const }[event.key];
        if ((!by && !hits) || event.altKey || event.shiftKey) return;
        event.preventDefault();
        event.stopPropagation();
        if (by) step(by);
        if (hits) chooseNext(hits);
      }}
    />
  );
}
