/** The outlines of a subject on the picture: drawn point by point, dragged, mended frame by frame; a colour is picked. */
import { useRef, useState, type PointerEvent } from 'react';
import type { Point, SubjectPath } from '../../core/document/types.ts';
import { LIMITS } from '../../core/document/limits.ts';
import { outline } from '../../core/accents/region.ts';
import { reshaped, subjectPathAt } from '../../core/subject/matte.ts';
import { SAME } from '../../core/subject/pieces.ts';
import { useDerived } from '../stores/derived.ts';
import { shownAt } from '../stores/focus.ts';
import { newGesture } from '../stores/montage.ts';
import { addPath, brush, changePath, keyedAt, pickColour, type PathPoints } from '../stores/subject.ts';
import { notice, useView } from '../stores/view.ts';

/** What keys do to the chosen points: moved by a thousandth of the picture, turned by two degrees, scaled by two hundredths. */
const TURN = Math.PI / 90;
const STEPS: Record<string, Parameters<typeof reshaped>[3]> = {
  ArrowLeft: { x: -0.001 },
  ArrowRight: { x: 0.001 },
  ArrowUp: { y: -0.001 },
  ArrowDown: { y: 0.001 },
  ',': { turn: -TURN },
  '.': { turn: TURN },
  '-': { scale: 1 / 1.02 },
  '+': { scale: 1.02 },
};

/** Shares of the picture within which a press on the first point closes a path. */
const CLOSES = 0.015;

export function SubjectOverlay() {
  const derived = useDerived();
  const id = useView((s) => s.subject);
  const drawing = useView((s) => s.drawing);
  // Played pictures are not drawn on.
  const frame = useView((s) => (s.playing ? -1 : s.playhead));
  const width = useView((s) => s.brush);
  const [stroke, setStroke] = useState<readonly Point[]>([]);
  const [drawn, setDrawn] = useState<readonly Point[]>([]);
  const [picked, setPicked] = useState<{ path: string; points: ReadonlySet<number> } | null>(null);
  const drag = useRef<{ from: Point; points: PathPoints; chosen: ReadonlySet<number>; gesture: string } | null>(null);
  const brushes = drawing === 'on' || drawing === 'off';
  const shown = derived && frame >= 0 ? shownAt(derived, frame) : null;
  if (!shown || shown.source.id !== id) return null;
  const { source, t } = shown;
  const onScreen = (event: PointerEvent | React.MouseEvent): Point => {
    const box = (event.currentTarget as Element).closest('[data-on-picture]')!.getBoundingClientRect();
    return { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
  };
  const close = (): void => {
    if (drawn.length < 3) return notice('An outline has three points at least.', 'error');
    addPath(source.id, t, drawn.map(shown.toSource));
    setDrawn([]);
    useView.setState({ drawing: null });
  };
  const line = (points: readonly { x: number; y: number }[]): string =>
    points.map(({ x, y }) => `${x * 100},${y * 100}`).join(' ');
  const screen = (points: PathPoints): PathPoints => points.map((p) => ({ ...p, ...shown.toScreen(p) }));
  const change = (path: SubjectPath, points: PathPoints, group?: string): void =>
    changePath(source.id, path.id, (now) => keyedAt(now, t, points), group);
  const begin = (points: PathPoints, chosen: ReadonlySet<number>) => (event: PointerEvent) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { from: shown.toSource(onScreen(event)), points, chosen, gesture: newGesture() };
  };
  const move = (path: SubjectPath) => (event: PointerEvent) => {
    if (!drag.current) return;
    const { from, points, chosen, gesture } = drag.current;
    const to = shown.toSource(onScreen(event));
    change(
      path,
      points.map((p, i) => (chosen.has(i) ? { ...p, x: p.x + to.x - from.x, y: p.y + to.y - from.y } : p)),
      gesture,
    );
  };
  const end = (): void => {
    drag.current = null;
  };
  /** Every key gets or loses the same point, so that it goes on moving from one to the next. */
  const everyKey = (path: SubjectPath, points: (of: PathPoints) => PathPoints): void =>
    changePath(source.id, path.id, (now) => ({
      ...now,
      keys: now.keys.map((key) => ({ ...key, points: points(key.points) })),
    }));
  return (
    <svg
      className="absolute inset-0 size-full touch-none overflow-visible"
      viewBox="0 0 100 100"
      preserveAspectRatio="none"
      data-subject-overlay
      role="group"
      aria-label="Outlines of the subject"
      // Without a path to draw or a colour to pick, only outlines and points take the mouse.
      style={{ pointerEvents: drawing === 'path' || drawing === 'colour' || brushes ? 'auto' : 'none' }}
      tabIndex={drawing === 'path' ? 0 : -1}
      onPointerDown={(event) => {
        const at = onScreen(event);
        if (drawing === 'colour') {
          useView.setState({ drawing: null });
          void pickColour(source, at);
        }
        if (brushes) {
          event.currentTarget.setPointerCapture(event.pointerId);
          setStroke([at]);
        }
        if (drawing !== 'path') return;
        const [first] = drawn;
        if (first && drawn.length > 2 && Math.hypot(at.x - first.x, at.y - first.y) < CLOSES) close();
        else setDrawn([...drawn, at]);
        (event.currentTarget as SVGElement).focus();
      }}
      onPointerMove={(event) => {
        if (!brushes || !stroke.length || stroke.length >= LIMITS.strokePoints) return;
        const [at, last] = [onScreen(event), stroke.at(-1)!];
        if (Math.hypot(at.x - last.x, at.y - last.y) > 0.003) setStroke([...stroke, at]);
      }}
      onPointerUp={() => {
        if (!brushes || !stroke.length) return;
        setStroke([]);
        void brush(source, shown, { on: drawing === 'on', width, points: stroke.map(shown.toSource) });
      }}
      onPointerCancel={() => setStroke([])}
      onKeyDown={(event) => {
        if (event.key === 'Enter') close();
        else if (event.key === 'Backspace') setDrawn(drawn.slice(0, -1));
        else if (event.key === 'Escape') setDrawn([]);
        else return;
        event.preventDefault();
      }}
    >
      {drawing === 'path' && drawn.length > 0 && (
        <>
          <polyline
            points={line(drawn)}
            className="fill-none stroke-lamp"
            strokeWidth={2}
            vectorEffect="non-scaling-stroke"
          />
          {drawn.map((p, i) => (
            <Dot key={i} at={p} className="fill-lamp" />
          ))}
        </>
      )}
      {brushes && (
        <>
          {source.subject?.brushed?.strokes
            .filter((one) => Math.abs(one.t - t) < SAME)
            .map((one, i) => (
              <Stroke key={i} points={one.points.map(shown.toScreen)} on={one.on} />
            ))}
          <Stroke points={stroke} on={drawing === 'on'} fresh />
        </>
      )}
      {drawing !== 'path' &&
        !brushes &&
        source.subject?.paths.map((path, number) => {
          const points = subjectPathAt(path, t);
          const seen = screen(points);
          const flat = outline(seen.map((p) => ({ ...p, x: p.x * 100, y: p.y * 100 })));
          const here = path.keys.find((key) => Math.abs(key.t - t) < SAME);
          const chosen = picked?.path === path.id ? picked.points : new Set<number>();
          // Where it is set before and after this frame, faintly.
          const [last, next] = [
            path.keys.findLast((key) => key.t < t - SAME),
            path.keys.find((key) => key.t > t + SAME),
          ];
          return (
            <g key={path.id} style={{ pointerEvents: drawing ? 'none' : 'auto' }}>
              {[last, next].map(
                (key, n) =>
                  key && (
                    <polygon
                      key={n}
                      points={line(key.points.map(shown.toScreen))}
                      className="pointer-events-none fill-none stroke-fog opacity-30"
                      strokeWidth={1}
                      vectorEffect="non-scaling-stroke"
                      data-beside
                    />
                  ),
              )}
              <polygon
                points={Array.from(
                  { length: flat.length / 2 },
                  (_, i) => `${flat[2 * i]! * 100},${flat[2 * i + 1]! * 100}`,
                ).join(' ')}
                className={`cursor-move fill-transparent ${path.does === 'takes' ? 'stroke-ember' : 'stroke-lamp'}`}
                strokeWidth={2}
                strokeDasharray={here && !here.found ? undefined : '5 3'}
                vectorEffect="non-scaling-stroke"
                data-outline={path.id}
                onPointerDown={begin(points, new Set(points.keys()))}
                onPointerMove={move(path)}
                onPointerUp={end}
                onDoubleClick={(event) => {
                  const at = nearestEdge(points, shown.toSource(onScreen(event)));
                  everyKey(path, (of) => {
                    const [a, b] = [of[at]!, of[(at + 1) % of.length]!];
                    const middle = { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, smooth: a.smooth };
                    return of.length === points.length && of.length < 47
                      ? [...of.slice(0, at + 1), middle, ...of.slice(at + 1)]
                      : of;
                  });
                }}
              />
              {seen.map((p, i) => (
                <Dot
                  key={i}
                  at={p}
                  round={p.smooth}
                  label={`Point ${i + 1} of outline ${number + 1}`}
                  className={`cursor-crosshair ${chosen.has(i) ? 'fill-sail' : 'fill-lamp'}`}
                  onPointerDown={(event) => {
                    const taken = new Set(event.shiftKey || chosen.has(i) ? chosen : []).add(i);
                    setPicked({ path: path.id, points: taken });
                    begin(points, taken)(event);
                  }}
                  onPointerMove={move(path)}
                  onPointerUp={end}
                  onDoubleClick={(event) => {
                    event.stopPropagation();
                    everyKey(path, (of) => of.map((q, k) => (k === i ? { ...q, smooth: !p.smooth } : q)));
                  }}
                  onKeyDown={(event) => {
                    const step = STEPS[event.key];
                    if (step) {
                      event.preventDefault();
                      event.stopPropagation();
                      const taken = chosen.has(i) ? chosen : new Set([i]);
                      const { width, height } = source.video!;
                      change(path, reshaped(points, taken, width / height, step), `subject-keys-${path.id}`);
                      return;
                    }
                    if (event.key !== 'Delete' && event.key !== 'Backspace') return;
                    event.preventDefault();
                    event.stopPropagation();
                    if (points.length > 3)
                      everyKey(path, (of) => (of.length === points.length ? of.filter((_, k) => k !== i) : of));
                    else notice('An outline has three points at least.', 'error');
                  }}
                />
              ))}
            </g>
          );
        })}
    </svg>
  );
}

/** A stroke of the brush; one that is being made is drawn stronger. */
const Stroke = ({ points, on, fresh = false }: { points: readonly Point[]; on: boolean; fresh?: boolean }) => (
  <polyline
    points={(points.length === 1 ? [points[0]!, points[0]!] : points)
      .map(({ x, y }) => `${x * 100},${y * 100}`)
      .join(' ')}
    className={`fill-none ${on ? 'stroke-lamp' : 'stroke-ember'} ${fresh ? '' : 'opacity-60'}`}
    strokeWidth={fresh ? 6 : 3}
    strokeLinecap="round"
    strokeLinejoin="round"
    strokeDasharray={on ? undefined : '1 7'}
    vectorEffect="non-scaling-stroke"
  />
);

/** The edge, by its first point, that a place is nearest to. */
function nearestEdge(points: readonly Point[], p: Point): number {
  const off = points.map((a, i) => {
    const b = points[(i + 1) % points.length]!;
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const along = Math.min(1, Math.max(0, ((p.x - a.x) * dx + (p.y - a.y) * dy) / Math.max(1e-9, dx * dx + dy * dy)));
    return Math.hypot(p.x - a.x - along * dx, p.y - a.y - along * dy);
  });
  return off.indexOf(Math.min(...off));
}

/** A point as large on the screen whatever the picture's shape. */
function Dot({
  at,
  label,
  round = false,
  ...rest
}: { at: Point; label?: string; round?: boolean } & React.SVGProps<SVGPathElement>) {
  return (
    <path
      d={`M${at.x * 100} ${at.y * 100}h0`}
      strokeWidth={round ? 11 : 9}
      strokeLinecap={round ? 'round' : 'square'}
      vectorEffect="non-scaling-stroke"
      {...rest}
      className={(rest.className ?? '').replaceAll('fill-', 'stroke-')}
      {...(label && { role: 'button', 'aria-label': label, tabIndex: 0 })}
    />
  );
}
