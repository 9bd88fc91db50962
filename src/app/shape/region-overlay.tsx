/** The chosen region on the picture: moved by its middle, sized by its handle, turned, its points dragged. */
import type { RegionShape, ShapeParam } from '../../core/document/types.ts';
import { replaced } from '../../core/document/params.ts';
import { useRef, type PointerEvent } from 'react';
import { pointsAt } from '../../core/accents/prepare.ts';
import { evaluate } from '../../core/accents/envelope.ts';
import { maskAt, outline, SHAPE_PARAMS } from '../../core/accents/region.ts';
import { useRegion, withPoints, withShapeValue } from './region.ts';
import { usePlacedAccent, useShapedFrame, useShaping } from './shaping.ts';

export function RegionOverlay({ aspect }: { aspect: number }) {
  const shaped = usePlacedAccent();
  const edited = useRegion();
  const at = useShapedFrame(true);
  const { tab, shape: chosen, points: picked } = useShaping();
  const svg = useRef<SVGSVGElement>(null);
  const drag = useRef<{ x: number; y: number; shape: RegionShape; what: string; angle: number } | null>(null);
  const shape = edited?.region.find((s) => s.id === chosen) ?? edited?.region.at(-1);
  if (!shaped || !edited || !shape || tab !== 2) return null;
  const { places } = shaped;
  // What goes by the focus is drawn and dragged where it is seen.
  const [fx, fy] = (shape.focus && shaped.placed.focus?.(at)) || [0, 0];
  const value = (of: RegionShape, name: ShapeParam): number =>
    evaluate(replaced(of.params[name] ?? SHAPE_PARAMS[name].default, places.of), at);
  const pointsOf = (of: RegionShape) => pointsAt(of, places, at);
  const [cx, cy, w, h, turn] = (['x', 'y', 'w', 'h', 'turn'] as const).map((name) => value(shape, name)) as [
    number,
    number,
    number,
    number,
    number,
  ];
  const points = pointsOf(shape);
  const place = (event: PointerEvent): { x: number; y: number } => {
    const box = svg.current!.getBoundingClientRect();
    return {
      x: ((event.clientX - box.left) / box.width - 0.5) * 100 * aspect - 100 * fx,
      y: ((event.clientY - box.top) / box.height - 0.5) * 100 - 100 * fy,
    };
  };
  /** A point of the picture as seen from the shape. */
  const own = (of: RegionShape, p: { x: number; y: number }): { x: number; y: number } => {
    const a = (value(of, 'turn') * Math.PI) / 180;
    const [dx, dy] = [p.x - value(of, 'x'), p.y - value(of, 'y')];
    return { x: Math.cos(a) * dx + Math.sin(a) * dy, y: Math.cos(a) * dy - Math.sin(a) * dx };
  };
  const begin =
    (what: string) =>
    (event: PointerEvent): void => {
      event.stopPropagation();
      (event.currentTarget as Element).setPointerCapture(event.pointerId);
      const p = place(event);
      drag.current = { ...p, shape, what, angle: Math.atan2(p.y - cy, p.x - cx) };
      if (what.startsWith('point')) {
        const i = Number(what.slice(5));
        const next = new Set(event.shiftKey ? picked : picked.has(i) ? picked : []);
        next.add(i);
        useShaping.setState({ points: next });
      }
    };
  const move = (event: PointerEvent): void => {
    const from = drag.current;
    if (!from) return;
    const p = place(event);
    const { what, shape: old } = from;
    let next = old;
    if (what === 'middle')
      next = withShapeValue(
        withShapeValue(old, 'x', value(old, 'x') + p.x - from.x, at, places),
        'y',
        value(old, 'y') + p.y - from.y,
        at,
        places,
      );
    else if (what === 'size') {
      const q = own(old, p);
      next = withShapeValue(
        withShapeValue(old, 'w', Math.abs(q.x) * 2, at, places),
        'h',
        Math.abs(q.y) * 2,
        at,
        places,
      );
    } else if (what === 'turn')
      next = withShapeValue(
        old,
        'turn',
        value(old, 'turn') + ((Math.atan2(p.y - value(old, 'y'), p.x - value(old, 'x')) - from.angle) * 180) / Math.PI,
        at,
        places,
      );
    else {
      const [a, b] = [own(old, { x: from.x, y: from.y }), own(old, p)];
      const taken = new Set([...useShaping.getState().points, Number(what.slice(5))]);
      const round = (v: number): number => Math.round(v * 100) / 100;
      // Held Alt sets the points for this frame only, so that the path begins to move.
      next = withPoints(
        old,
        pointsOf(old).map((point, i) =>
          taken.has(i) ? { ...point, x: round(point.x + b.x - a.x), y: round(point.y + b.y - a.y) } : point,
        ),
        at,
        places,
        (old.path?.length ?? 0) > 1 || event.altKey,
      );
    }
    edited.change(old.id, () => next, `region-${old.id}-${what}-${at}`);
  };
  const end = (): void => {
    drag.current = null;
  };
  const handlers = (what: string) => ({ onPointerDown: begin(what), onPointerMove: move, onPointerUp: end });
  const lines = shape.kind === 'path' ? outline(points).map((v) => v * 100) : [];
  const corner = shape.kind === 'path' ? null : ([w / 2, h / 2] as const);
  const softness = (maskAt([shape], at, undefined, null, (e) => replaced(e, places.of))[0]?.soft[0] ?? 0) * 100;
  return (
    <svg
      ref={svg}
      viewBox={`${-50 * aspect} -50 ${100 * aspect} 100`}
      className="absolute inset-0 h-full w-full touch-none overflow-visible"
      data-region-overlay
      role="group"
      aria-label="Region on the picture"
      onDoubleClick={(event) => {
        if (shape.kind !== 'path') return;
        const p = own(shape, place(event as unknown as PointerEvent));
        // A new point goes where the nearest edge is.
        const distances = points.map((a, i) => {
          const b = points[(i + 1) % points.length]!;
          const t = Math.min(
            1,
            Math.max(
              0,
              ((p.x - a.x) * (b.x - a.x) + (p.y - a.y) * (b.y - a.y)) /
                Math.max(1e-9, (b.x - a.x) ** 2 + (b.y - a.y) ** 2),
            ),
          );
          return Math.hypot(p.x - a.x - (b.x - a.x) * t, p.y - a.y - (b.y - a.y) * t);
        });
        const i = distances.indexOf(Math.min(...distances));
        edited.change(shape.id, (s) =>
          withPoints(
            s,
            [
              ...points.slice(0, i + 1),
              { x: Math.round(p.x * 100) / 100, y: Math.round(p.y * 100) / 100, smooth: false },
              ...points.slice(i + 1),
            ],
            at,
            places,
          ),
        );
      }}
    >
      <g
        transform={`translate(${cx + 100 * fx} ${cy + 100 * fy}) rotate(${turn})`}
        fill="none"
        vectorEffect="non-scaling-stroke"
      >
        {shape.kind === 'ellipse' && (
          <ellipse
            rx={w / 2}
            ry={h / 2}
            className="stroke-lamp"
            strokeWidth={0.4}
            fill="transparent"
            {...handlers('middle')}
            data-handle="body"
          />
        )}
        {(shape.kind === 'box' || shape.kind === 'band') && (
          <rect
            x={-w / 2}
            y={-h / 2}
            width={w}
            height={h}
            className="stroke-lamp"
            strokeWidth={0.4}
            fill="transparent"
            {...handlers('middle')}
            data-handle="body"
          />
        )}
        {shape.kind === 'path' && (
          <polygon
            points={lines.join(' ')}
            className="stroke-lamp"
            strokeWidth={0.4}
            fill="transparent"
            {...handlers('middle')}
            data-handle="body"
          />
        )}
        {softness > 1 && shape.kind === 'ellipse' && (
          <ellipse
            rx={w / 2 + softness / 2}
            ry={h / 2 + softness / 2}
            className="stroke-lamp/50"
            strokeWidth={0.2}
            strokeDasharray="1 1"
            pointerEvents="none"
          />
        )}
        {softness > 1 && shape.kind === 'box' && (
          <rect
            x={-w / 2 - softness / 2}
            y={-h / 2 - softness / 2}
            width={w + softness}
            height={h + softness}
            className="stroke-lamp/50"
            strokeWidth={0.2}
            strokeDasharray="1 1"
            pointerEvents="none"
          />
        )}
        {corner && (
          <rect
            x={corner[0] - 1.6}
            y={corner[1] - 1.6}
            width={3.2}
            height={3.2}
            className="cursor-nwse-resize fill-lamp"
            {...handlers('size')}
            data-handle="size"
          />
        )}
        {corner && (
          <circle
            cx={0}
            cy={-corner[1] - 5}
            r={1.7}
            className="cursor-grab fill-tide"
            {...handlers('turn')}
            data-handle="turn"
          />
        )}
        {shape.kind === 'path' &&
          points.map((p, i) => (
            <circle
              key={i}
              cx={p.x}
              cy={p.y}
              r={1.9}
              className={`cursor-move ${picked.has(i) ? 'fill-lamp' : p.smooth ? 'fill-tide' : 'fill-sail'}`}
              stroke="#0c1418"
              strokeWidth={0.3}
              {...handlers(`point${i}`)}
              data-handle={`point${i}`}
            />
          ))}
      </g>
    </svg>
  );
}
