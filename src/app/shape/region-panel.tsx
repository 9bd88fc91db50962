/** Where in the picture an effect acts: shapes that are added, taken away or intersected. */
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { nanoid } from 'nanoid';
import { Crosshair, Circle, Combine, Pentagon, Rows2, Spline, Square, Trash2 } from 'lucide-react';
import { changeEffect } from '../../core/document/edits.ts';
import { keyedOn, keyOn, pointsAt } from '../../core/accents/prepare.ts';
import { evaluate } from '../../core/accents/envelope.ts';
import { MOST_SHAPES, paramsOf, SHAPE_PARAMS, smoothed } from '../../core/accents/region.ts';
import { timecode } from '../../core/base/time.ts';
import { replaced } from '../../core/document/params.ts';
import type { Accent, EffectUse, RegionShape, ShapeKind } from '../../core/document/types.ts';
import { everyUse, unshared } from '../../core/document/uses.ts';
import { EFFECTS } from '../../effects/index.ts';
import { NumberField } from '../parts/number-field.tsx';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { notice } from '../stores/view.ts';
import { useRegion, withPoints, withShapeValue, type EditedRegion } from './region.ts';
import { useOwnPlacement, usePlacedAccent, useShapedFrame, useShaping } from './shaping.ts';

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

export function RegionPanel() {
  const shaped = usePlacedAccent();
  const edited = useRegion();
  const at = useShapedFrame(true);
  const chosen = useShaping((s) => s.shape);
  const points = useShaping((s) => s.points);
  if (!shaped || !edited)
    return <p className="text-fog">Add an effect first: a region says where in the picture it acts.</p>;
  const { accent, places } = shaped;
  const { use, region, set: setRegion } = edited;
  const shape = region.find((s) => s.id === chosen) ?? region.at(-1);
  const change = (work: (shape: RegionShape) => RegionShape, group?: string): void => {
    if (shape) edited.change(shape.id, work, group);
  };
  const path = shape ? pointsAt(shape, places, at) : [];
  return (
    <>
      <p className="text-fog">
        Where <span className="font-medium text-sail">{EFFECTS.get(use.effect)?.name ?? use.effect}</span> acts
        {region.length ? '' : ': everywhere'}.
      </p>
      <Belonging accent={accent} edited={edited} />
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
                  <option value="subtract">subtracted</option>
                  <option value="intersect">intersected</option>
                </select>
              )}
              <button
                className="key-quiet px-1"
                aria-pressed={one.focus ?? false}
                title="Its place counts from the hit’s focus, and moves with it"
                aria-label={`Shape ${i + 1} follows the focus`}
                onClick={() => setRegion(region.map((s) => (s.id === one.id ? { ...s, focus: !s.focus } : s)))}
              >
                <Crosshair size={14} className={one.focus ? 'text-lamp' : ''} />
              </button>
              <button
                className="key-quiet px-1"
                aria-pressed={one.invert}
                title="Invert"
                aria-label={`Invert shape ${i + 1}`}
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
                    title={shaped ? 'Animated; press for a constant value' : 'Constant; press to animate it'}
                    aria-pressed={shaped}
                    aria-label={`Animate ${spec.label}`}
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

/** Whose region it is: the effect's own or shared with others, everywhere or on one placement; and copies of it. */
function Belonging({ accent, edited: { use, region, placement } }: { accent: Accent; edited: EditedRegion }) {
  const { line } = useDerived()!;
  const own = useOwnPlacement();
  const others = everyUse(accent.effects).filter(({ id }) => id !== use.id);
  const sharing = others.filter((other) => other.regionOf === use.id);
  const offered = others.filter((other) => other.id === use.regionOf || (!other.regionOf && other.region?.length));
  const nameOf = ({ effect, id }: EffectUse): string =>
    `${everyUse(accent.effects).findIndex((one) => one.id === id) + 1}. ${EFFECTS.get(effect)?.name ?? effect}`;
  const copyTo = (to: EffectUse): void => {
    const copy = region.map((shape) => ({ ...shape, id: nanoid(8) }));
    edit(
      changeEffect(accent.id, to.id, ({ regionOf: _, region: __, ...e }) => (copy.length ? { ...e, region: copy } : e)),
    );
    notice(`The region is copied to ${nameOf(to)}.`);
  };
  return (
    <div className="flex flex-col gap-1.5 text-[12px] text-fog">
      <div className="flex flex-wrap items-center gap-1.5">
        {(offered.length > 0 || use.regionOf) && sharing.length === 0 && !placement && (
          <select
            className="field min-w-0 py-0"
            aria-label="Whose region it is"
            value={use.regionOf ?? ''}
            onChange={(event) => {
              const id = event.currentTarget.value;
              edit(
                changeEffect(accent.id, use.id, ({ region: mine, ...e }) =>
                  id ? { ...e, regionOf: id } : unshared({ ...e, ...(mine && { region: mine }) }, accent.effects),
                ),
              );
            }}
          >
            <option value="">a region of its own</option>
            {offered.map((other) => (
              <option key={other.id} value={other.id}>
                shared with {nameOf(other)}
              </option>
            ))}
          </select>
        )}
        {sharing.length > 0 && <span>Shared with {sharing.map(nameOf).join(', ')}.</span>}
        {region.length > 0 && others.length > 0 && (
          <Menu>
            <MenuButton className="key py-0">Copy to</MenuButton>
            <MenuItems anchor="bottom start" className="pop max-h-64">
              {others.map((other) => (
                <MenuItem key={other.id}>
                  <button className="pop-item" onClick={() => copyTo(other)}>
                    {nameOf(other)}
                  </button>
                </MenuItem>
              ))}
            </MenuItems>
          </Menu>
        )}
      </div>
      {own && (
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-tide"
            checked={placement !== null}
            onChange={(event) => useShaping.setState({ onlyHere: event.currentTarget.checked })}
          />
          Only on the hit at {timecode(own.frame, line.rate)}
        </label>
      )}
    </div>
  );
}
