/** Where in the picture an effect acts: shapes that are added, taken away or intersected. */
import type { RegionShape, ShapeKind, ShapeParam } from '../../core/document/types.ts';
import { replaced } from '../../core/document/params.ts';
import { nanoid } from 'nanoid';
import { Crosshair, Circle, Combine, Pentagon, Rows2, Spline, Square, Trash2 } from 'lucide-react';
import { changeEffect } from '../../core/document/edits.ts';
import { keyedOn, keyOn } from '../../core/accents/prepare.ts';
import { evaluate } from '../../core/accents/envelope.ts';
import { MOST_SHAPES, pathAt, paramsOf, SHAPE_PARAMS, smoothed, withPath } from '../../core/accents/region.ts';
import { EFFECTS } from '../../effects/index.ts';
import { NumberField } from '../parts/number-field.tsx';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';
import { useChosenUse, usePlacedAccent, useShaping } from './shaping.ts';

const KINDS: { kind: ShapeKind; name: string; Icon: typeof Square }[] = [
  { kind: 'box', name: 'Box', Icon: Square },
  { kind: 'ellipse', name: 'Ellipse', Icon: Circle },
  { kind: 'band', name: 'Band', Icon: Rows2 },
  { kind: 'path', name: 'Path', Icon: Pentagon },
];

function newShape(kind: ShapeKind): RegionShape {
  const base = { id: nanoid(8), kind, combine: 'add' as const, invert: false, params: {} };
  if (kind === 'band') return { ...base, params: { w: 400, h: 30 } };
  if (kind !== 'path') return base;
  return {
    ...base,
    path: [
      {
        at: 0,
        points: [
          { x: -30, y: 20, smooth: false },
          { x: 0, y: -30, smooth: true },
          { x: 30, y: 20, smooth: false },
        ],
      },
    ],
  };
}

/** Changes one shape of an effect's region. */
export const changeShape = (accent: string, use: string, shape: string, work: (shape: RegionShape) => RegionShape) =>
  changeEffect(accent, use, (e) => ({ ...e, region: (e.region ?? []).map((s) => (s.id === shape ? work(s) : s)) }));

/** The frame of the accent at which a region is edited: that of the playhead. */
export function useRegionFrame(): number {
  const shaped = usePlacedAccent();
  return useView(({ playhead }) =>
    shaped ? Math.min(shaped.places.tail, Math.max(-shaped.places.lead, playhead - shaped.placed.frame)) : 0,
  );
}

export function RegionPanel() {
  const shaped = usePlacedAccent();
  const use = useChosenUse();
  const at = useRegionFrame();
  const chosen = useShaping((s) => s.shape);
  const points = useShaping((s) => s.points);
  if (!shaped || !use)
    return <p className="text-fog">Add an effect first: a region says where in the picture it acts.</p>;
  const { accent, places } = shaped;
  const region = use.region ?? [];
  const shape = region.find((s) => s.id === chosen) ?? region.at(-1);
  const setRegion = (next: readonly RegionShape[]): void =>
    edit(changeEffect(accent.id, use.id, ({ region: _, ...e }) => (next.length ? { ...e, region: next } : e)));
  const change = (work: (shape: RegionShape) => RegionShape, group?: string): void => {
    if (shape) edit(changeShape(accent.id, use.id, shape.id, work), group);
  };
  const path = shape?.path
    ? pathAt(
        shape.path.map((key) => ({ ...key, at: places.of(key) })),
        at,
      )
    : [];
  return (
    <>
      <p className="text-fog">
        Where <span className="font-medium text-sail">{EFFECTS.get(use.effect)?.name ?? use.effect}</span> acts
        {region.length ? '' : ': everywhere'}.
      </p>
      <div className="flex flex-wrap gap-1">
        {KINDS.map(({ kind, name, Icon }) => (
          <button
            key={kind}
            className="key"
            disabled={region.length >= MOST_SHAPES}
            onClick={() => {
              const made = newShape(kind);
              setRegion([...region, made]);
              useShaping.setState({ shape: made.id, points: new Set() });
            }}
          >
            <Icon size={13} />
            {name}
          </button>
        ))}
      </div>
      {region.length > 0 && (
        <ol className="flex flex-col gap-1" aria-label="Shapes of the region">
          {region.map((one, i) => (
            <li
              key={one.id}
              className={`flex items-center gap-1 rounded-md bg-plank px-2 py-1 ${one.id === shape?.id ? 'ring-1 ring-tide' : ''}`}
            >
              <button
                className="grow text-left"
                aria-pressed={one.id === shape?.id}
                onClick={() => useShaping.setState({ shape: one.id, points: new Set() })}
              >
                {i + 1}. {KINDS.find((k) => k.kind === one.kind)!.name}
              </button>
              {i > 0 && (
                <select
                  className="field py-0 text-[12px]"
                  aria-label={`How shape ${i + 1} is combined`}
                  value={one.combine}
                  onChange={(event) =>
                    setRegion(
                      region.map((s) =>
                        s.id === one.id ? { ...s, combine: event.currentTarget.value as RegionShape['combine'] } : s,
                      ),
                    )
                  }
                >
                  <option value="add">added</option>
                  <option value="subtract">taken away</option>
                  <option value="intersect">intersected</option>
                </select>
              )}
              <button
                className="key-quiet px-1"
                aria-pressed={one.focus ?? false}
                title="Its place counts from the hit’s focus, and moves with it"
                aria-label={`Shape ${i + 1} goes by the focus`}
                onClick={() => setRegion(region.map((s) => (s.id === one.id ? { ...s, focus: !s.focus } : s)))}
              >
                <Crosshair size={14} className={one.focus ? 'text-lamp' : ''} />
              </button>
              <button
                className="key-quiet px-1"
                aria-pressed={one.invert}
                title="Inside out"
                aria-label={`Turn shape ${i + 1} inside out`}
                onClick={() => setRegion(region.map((s) => (s.id === one.id ? { ...s, invert: !s.invert } : s)))}
              >
                <Combine size={14} className={one.invert ? 'text-lamp' : ''} />
              </button>
              <button
                className="key-quiet px-1"
                aria-label={`Remove shape ${i + 1}`}
                onClick={() => setRegion(region.filter((s) => s.id !== one.id))}
              >
                <Trash2 size={14} />
              </button>
            </li>
          ))}
        </ol>
      )}
      {shape && (
        <>
          <h3 className="caption">At frame {at > 0 ? `+${at}` : at} (drawn on the picture)</h3>
          <div className="grid grid-cols-2 gap-x-3 gap-y-1 text-[12px] text-fog">
            {paramsOf(shape.kind).map((name) => {
              const spec = SHAPE_PARAMS[name];
              const envelope = shape.params[name] ?? spec.default;
              const shaped = typeof envelope !== 'number';
              return (
                <label key={name} className="flex items-center gap-1">
                  <span className="grow">{spec.label}</span>
                  <NumberField
                    label={spec.label}
                    value={Math.round(evaluate(replaced(envelope, places.of), at) * 10) / 10}
                    min={spec.min}
                    max={spec.max}
                    onValue={(value) =>
                      change((s) => withShapeValue(s, name, value, at, places), `shape-${shape.id}-${name}`)
                    }
                  />
                  <button
                    className={`key-quiet px-1 ${keyOn(envelope, places, at) ? 'text-lamp' : shaped ? 'text-tide' : ''}`}
                    title={
                      shaped ? 'Shaped over frames; press to make it steady' : 'Steady; press to shape it over frames'
                    }
                    aria-pressed={shaped}
                    aria-label={`Shape ${spec.label} over frames`}
                    onClick={() =>
                      change((s) => ({
                        ...s,
                        params: {
                          ...s.params,
                          [name]: shaped
                            ? evaluate(replaced(envelope, places.of), at)
                            : keyedOn([], places, at, envelope),
                        },
                      }))
                    }
                  >
                    ◆
                  </button>
                </label>
              );
            })}
          </div>
          {shape.kind === 'path' && (
            <div className="flex flex-wrap items-center gap-1 text-[12px] text-fog">
              <span className="w-full">
                {path.length} points, {points.size} chosen
                {path.length < 3 ? ': three are needed to enclose anything' : ''}. A double click adds one, Shift
                chooses several, Alt moves them from this frame on.
              </span>
              <button
                className="key py-0.5"
                disabled={points.size === 0}
                onClick={() => change((s) => withPoints(s, smoothed(path, points), at, places))}
              >
                <Spline size={13} />
                Smooth
              </button>
              <button
                className="key py-0.5"
                disabled={points.size === 0}
                onClick={() =>
                  change((s) =>
                    withPoints(
                      s,
                      path.map((p, i) => (points.has(i) ? { ...p, smooth: !p.smooth } : p)),
                      at,
                      places,
                    ),
                  )
                }
              >
                Corner or curve
              </button>
              <button
                className="key py-0.5"
                disabled={points.size === 0}
                onClick={() => {
                  change((s) =>
                    withPoints(
                      s,
                      path.filter((_, i) => !points.has(i)),
                      at,
                      places,
                    ),
                  );
                  useShaping.setState({ points: new Set() });
                }}
              >
                Remove
              </button>
              <button
                className="key py-0.5"
                disabled={(shape.path?.length ?? 0) < 2}
                onClick={() => change((s) => ({ ...s, path: [{ at: 0, points: path }] }))}
              >
                Same at all frames
              </button>
            </div>
          )}
        </>
      )}
    </>
  );
}

type Where = NonNullable<ReturnType<typeof usePlacedAccent>>['places'];

/** A value at a frame: a key where it is shaped, else the steady value. */
export const withShapeValue = (
  shape: RegionShape,
  name: ShapeParam,
  value: number,
  at: number,
  places: Where,
): RegionShape => {
  const now = shape.params[name] ?? SHAPE_PARAMS[name].default;
  const rounded = Math.round(value * 100) / 100;
  return {
    ...shape,
    params: { ...shape.params, [name]: typeof now === 'number' ? rounded : keyedOn(now, places, at, rounded) },
  };
};

/** The points at a frame. A path with one key moves as a whole until a second one is set on purpose. */
export function withPoints(
  shape: RegionShape,
  points: readonly { x: number; y: number; smooth: boolean }[],
  at: number,
  places: Where,
  keyed = (shape.path?.length ?? 0) > 1,
): RegionShape {
  const keys = shape.path ?? [];
  if (!keyed) return { ...shape, path: [{ at: keys[0]?.at ?? 0, points }] };
  const same = keys.find((key) => Math.abs(places.of(key) - at) < 0.5);
  return { ...shape, path: withPath(keys, same?.at ?? places.at(at), points) };
}
