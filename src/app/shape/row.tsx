/** One row of the ladder: the easing of a segment, the whole envelope, and what moves it by itself. */
import { envelopeOf, isMoved, partOf, replaced, type ShapedPart } from '../../core/document/params.ts';
import {
  ANCHORS,
  type Anchor,
  type Cubic,
  EASING_NAMES,
  type Easing,
  type Envelope,
  type Generator,
  type GeneratorKind,
  type Key,
  type Param,
} from '../../core/document/types.ts';
import { useRef } from 'react';
import { changeParam, together } from '../../core/document/edits.ts';
import { keyOn, rekeyedOn, type Places } from '../../core/accents/prepare.ts';
import type { ParamSpec } from '../../core/accents/effect-spec.ts';
import { EASINGS, eased } from '../../core/accents/easing.ts';
import {
  endedIn,
  evaluate,
  integral,
  mirrored,
  scaledValues,
  shifted,
  GRAIN,
  stretched,
} from '../../core/accents/envelope.ts';
import { GENERATOR_KINDS, newGenerator } from '../../core/accents/generators.ts';
import { listText, readList } from '../../core/accents/lists.ts';
import { NumberField } from '../parts/number-field.tsx';
import { edit } from '../stores/montage.ts';
import { notice } from '../stores/view.ts';
import { dragStep, restOf, rowEnvelope, rowsOf, rowsWith, shown, type RowInfo } from './rows.ts';
import { changeRow, frameName, rowId, usePlacedAccent, useShapedFrame, useShaping } from './shaping.ts';

/** The key from which a segment runs over a frame. */
const segmentAt = (envelope: Envelope, places: Places, at: number): Key | undefined =>
  keyOn(envelope, places, at) ??
  (typeof envelope === 'number' ? undefined : envelope.filter((k) => places.of(k) <= at).at(-1));

const ANCHOR_NAMES: Record<Anchor, string> = {
  hit: 'the hit',
  start: 'its start',
  end: 'its end',
  clip: 'the clip’s end',
  next: 'the next hit',
};

export function RowPanel() {
  const shaped = usePlacedAccent();
  const row = useShaping((s) => s.row);
  const at = useShapedFrame();
  const also = useShaping((s) => s.also);
  const kept = useShaping((s) => s.copied);
  const info = shaped && row ? rowsOf(shaped, true).find((r) => rowId(r) === rowId(row)) : undefined;
  if (!shaped || !info)
    return (
      <p className="text-fog">
        Choose a row in the ladder below: its easing, its envelope as a whole and what moves it by itself are set here.
      </p>
    );
  const { accent, places, placed } = shaped;
  const { spec } = info;
  const param: Param = info.data.params[info.param] ?? spec.default;
  const envelope = rowEnvelope(info);
  const timed = replaced(envelope, places.of);
  const rows = rowsOf(shaped, true);
  const taken = rowsWith(rows, info);
  const change = (work: (envelope: Envelope, row: RowInfo) => Envelope, group?: string): void =>
    edit(together(taken.map((r) => changeRow(accent.id, r, (e) => work(e, r)))), group);
  const keys = typeof envelope === 'number' ? [] : envelope;
  const key = keyOn(envelope, places, at);
  const before = segmentAt(envelope, places, at);
  const next = before && keys[keys.indexOf(before) + 1];
  const frame = places.at(1) - places.at(0) || 1;
  const fromHit = (key: Key): number => places.of(key) + placed.frame - shaped.audition.frame;
  const paste = (): void => {
    if (kept === null) return;
    const onto = also.size ? rows.filter((r) => also.has(rowId(r))) : [info];
    edit(together(onto.map((r, i) => changeRow(accent.id, r, () => kept[i % kept.length]!))));
  };
  return (
    <>
      <p className="flex items-baseline gap-2">
        <span className="text-fog">{info.effect}</span>
        <span className="font-medium">{info.label}</span>
        <span className="mono text-[12px] text-fog">
          frame {frameName(at, shaped)}: {shown(evaluate(timed, at))}
          {spec.unit === 'choice' ? '' : spec.unit}
        </span>
      </p>
      {spec.unit === '%/s' || spec.unit === 'Hz' ? (
        <p className="mono text-[12px] text-fog">
          so far {shown(integral(timed, -places.lead, at) / placed.fps)} {spec.unit === 'Hz' ? 'swings' : '%'}
        </p>
      ) : spec.travels && keys.length > 1 ? (
        <p className="mono text-[12px] text-fog">
          moves at {shown((evaluate(timed, at + 1) - evaluate(timed, at)) * placed.fps)} %/s
        </p>
      ) : null}
      <p className="text-[12px] text-fog">
        {spec.doc} From {spec.min} to {spec.max}
        {spec.identity !== undefined ? `; nothing at ${spec.identity}` : ''}
        {spec.identity !== undefined && spec.scales !== false ? ', follows intensity' : ''}.
      </p>

      {before && next ? (
        <>
          <h3 className="caption">
            From {shown(fromHit(before))} to {shown(fromHit(next))}
          </h3>
          <CurveEditor
            ease={before.ease}
            onEase={(ease) =>
              change(
                (e, r) => {
                  // Of other rows the segment that the frame lies in.
                  const from = r === info ? before : segmentAt(e, places, at);
                  return typeof e === 'number' ? e : e.map((k) => (k === from ? { ...k, ease } : k));
                },
                `ease-${rowId(info)}`,
              )
            }
          />
        </>
      ) : (
        <p className="text-[12px] text-fog">
          {keys.length
            ? 'No segment begins here: the last value stays.'
            : 'A steady value. Set another one at any frame of the ladder to make it move.'}
        </p>
      )}
      {key && (
        <label className="flex items-center gap-2 text-[12px] text-fog">
          This key is tied to
          <select
            className="field py-0"
            aria-label="What the key is tied to"
            value={key.anchor ?? 'hit'}
            onChange={(event) => {
              const anchor = event.currentTarget.value as Anchor;
              change((e) =>
                rekeyedOn(e, places, at, (k) => ({
                  at: places.at(places.of(k), anchor),
                  value: k.value,
                  ease: k.ease,
                  ...(anchor !== 'hit' && { anchor }),
                })),
              );
            }}
          >
            {ANCHORS.map((anchor) => (
              <option key={anchor} value={anchor}>
                {ANCHOR_NAMES[anchor]}
              </option>
            ))}
          </select>
        </label>
      )}

      <h3 className="caption">The whole envelope</h3>
      <div className="flex flex-wrap gap-1">
        <button className="key py-0.5" disabled={!keys.length} onClick={() => change((e) => shifted(e, -frame))}>
          1 f earlier
        </button>
        <button className="key py-0.5" disabled={!keys.length} onClick={() => change((e) => shifted(e, frame))}>
          1 f later
        </button>
        <button
          className="key py-0.5"
          disabled={!keys.length}
          onClick={() => change((e) => stretched(e, 0.75, GRAIN[accent.unit]))}
        >
          Shorter
        </button>
        <button
          className="key py-0.5"
          disabled={!keys.length}
          onClick={() => change((e) => stretched(e, 4 / 3, GRAIN[accent.unit]))}
        >
          Longer
        </button>
        <button className="key py-0.5" disabled={!keys.length} onClick={() => change((e) => mirrored(e))}>
          Mirror in time
        </button>
        <button className="key py-0.5" onClick={() => change((e, r) => scaledValues(e, 0.8, restOf(r)))}>
          Weaker
        </button>
        <button className="key py-0.5" onClick={() => change((e, r) => scaledValues(e, 1.25, restOf(r)))}>
          Stronger
        </button>
        {spec.identity !== undefined && (
          <button
            className="key py-0.5"
            disabled={!keys.length}
            onClick={() => change((e, r) => scaledValues(e, -1, restOf(r)))}
          >
            Invert
          </button>
        )}
        {spec.identity !== undefined && (
          <button
            className="key py-0.5"
            disabled={!keys.length}
            onClick={() => change((e, r) => endedIn(e, restOf(r), places.at(-places.lead), places.at(places.tail)))}
          >
            Fix ends
          </button>
        )}
        <button
          className="key py-0.5"
          onClick={() => {
            useShaping.setState({ copied: taken.map(rowEnvelope) });
            notice(
              taken.length > 1
                ? `${taken.length} envelopes are copied: tick as many rows and paste them there.`
                : 'The envelope is copied: paste it on another row, or on all that are ticked.',
            );
          }}
        >
          Copy
        </button>
        <button className="key py-0.5" disabled={kept === null} onClick={paste}>
          Paste{also.size ? ` on ${also.size}` : ''}
        </button>
      </div>

      {info.part === undefined && (
        <>
          <h3 className="caption">Moves by itself</h3>
          <GeneratorPanel
            param={param}
            spec={spec}
            onParam={(work, group) =>
              edit(changeParam(accent.id, info.use, info.param, spec.default, work), group && `${group}-${rowId(info)}`)
            }
          />
        </>
      )}
    </>
  );
}

const [WIDTH, HEIGHT, PAD] = [300, 120, 22];

/** The segment's curve; its two handles are dragged, or moved with the arrow keys. */
function CurveEditor({ ease, onEase }: { ease: Easing; onEase: (ease: Easing) => void }) {
  const svg = useRef<SVGSVGElement>(null);
  const named = typeof ease === 'string';
  const points: Cubic = named ? (EASINGS[ease] ?? [0.33, 0.33, 0.67, 0.67]) : ease;
  const x = (v: number): number => PAD + v * (WIDTH - 2 * PAD);
  const y = (v: number): number => HEIGHT - PAD - v * (HEIGHT - 2 * PAD);
  const path = Array.from(
    { length: 61 },
    (_, i) => `${i ? 'L' : 'M'}${x(i / 60).toFixed(1)} ${y(eased(ease, i / 60)).toFixed(1)}`,
  ).join(' ');
  const handle = (which: 0 | 1, px: number, py: number): void => {
    const next = [...points] as [number, number, number, number];
    next[2 * which] = Math.round(Math.min(1, Math.max(0, px)) * 100) / 100;
    next[2 * which + 1] = Math.round(Math.min(2, Math.max(-1, py)) * 100) / 100;
    onEase(next);
  };
  return (
    <div className="flex flex-col gap-1">
      <svg
        ref={svg}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full rounded-md bg-night"
        role="group"
        aria-label="Curve of the segment"
      >
        <path d={`M${x(0)} ${y(0)} H${x(1)} M${x(0)} ${y(1)} H${x(1)}`} className="stroke-rope" fill="none" />
        <path d={path} className="stroke-tide" strokeWidth={2} fill="none" />
        {([0, 1] as const).map((which) => {
          const [hx, hy] = [x(points[2 * which]!), y(points[2 * which + 1]!)];
          return (
            <g key={which}>
              <line
                x1={x(which)}
                y1={y(which)}
                x2={hx}
                y2={hy}
                className="stroke-lamp"
                strokeDasharray={named && !EASINGS[ease] ? '2 3' : undefined}
              />
              <circle
                cx={hx}
                cy={hy}
                r={6}
                className="cursor-grab fill-lamp"
                role="slider"
                tabIndex={0}
                aria-label={which ? 'Handle at the end' : 'Handle at the beginning'}
                aria-valuenow={points[2 * which + 1]!}
                aria-valuetext={`${points[2 * which]}, ${points[2 * which + 1]}`}
                data-handle={which}
                onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
                onPointerMove={(event) => {
                  if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
                  const box = svg.current!.getBoundingClientRect();
                  const scale = WIDTH / box.width;
                  handle(
                    which,
                    ((event.clientX - box.left) * scale - PAD) / (WIDTH - 2 * PAD),
                    (HEIGHT - PAD - (event.clientY - box.top) * scale) / (HEIGHT - 2 * PAD),
                  );
                }}
                onKeyDown={(event) => {
                  const by = {
                    ArrowLeft: [-0.05, 0],
                    ArrowRight: [0.05, 0],
                    ArrowUp: [0, 0.05],
                    ArrowDown: [0, -0.05],
                  }[event.key];
                  if (!by) return;
                  event.preventDefault();
                  event.stopPropagation();
                  handle(which, points[2 * which]! + by[0]!, points[2 * which + 1]! + by[1]!);
                }}
              />
            </g>
          );
        })}
      </svg>
      <div className="flex flex-wrap gap-1" role="group" aria-label="Shape of the segment">
        {EASING_NAMES.map((name) => (
          <button
            key={name}
            className="key px-1.5 py-0 text-[11.5px]"
            aria-pressed={ease === name}
            onClick={() => onEase(name)}
          >
            {name}
          </button>
        ))}
      </div>
    </div>
  );
}

const GENERATOR_NAMES: Record<GeneratorKind, string> = {
  noise: 'Noise',
  sine: 'Sine',
  cadence: 'Cadence',
  hold: 'New value every n frames',
  pulses: 'Pulses',
  gate: 'Gate',
  spread: 'Spread over placements',
  run: 'One value a hit (run)',
};

function GeneratorPanel({
  param,
  spec,
  onParam,
}: {
  param: Param;
  spec: ParamSpec;
  onParam: (work: (param: Param) => Param, group?: string) => void;
}) {
  const by = isMoved(param) ? param.by : null;
  const pick = (kind: string): void =>
    onParam((now) => {
      const base = envelopeOf(now);
      if (kind === '') return base;
      const steady = typeof base === 'number' ? base : (spec.identity ?? spec.default);
      const room = Math.min(spec.max - steady, Math.max(1, (spec.max - spec.min) / 8));
      return { base, by: newGenerator(kind as GeneratorKind, room > 0 ? room : (spec.max - spec.min) / 8, steady) };
    });
  const set = (part: Partial<Record<string, unknown>>, group = 'generator'): void =>
    onParam((now) => (isMoved(now) ? { ...now, by: { ...now.by, ...part } as Generator } : now), group);
  /** A number of the generator that may also be shaped: then the ladder has a row of it. */
  const field = (name: ShapedPart, label: string, unit = '', step = dragStep(spec), max = 10000): React.ReactNode => {
    const value = partOf(param, name)!;
    const steady = typeof value === 'number';
    return (
      <label key={name} className="flex items-center gap-1">
        {label}
        {steady ? (
          <NumberField
            label={label}
            value={value}
            min={-max}
            max={max}
            step={step}
            onValue={(v) => set({ [name]: v })}
          />
        ) : (
          <span className="text-tide">shaped in the ladder</span>
        )}
        {unit}
        <button
          className="key-quiet px-1 text-[11px]"
          aria-pressed={!steady}
          aria-label={steady ? `Shape: ${label}` : `Steady: ${label}`}
          title={steady ? 'Keys over the frames, in a row of its own in the ladder' : 'One value for all frames'}
          onClick={() =>
            set({
              [name]: steady
                ? [
                    { at: 0, value, ease: 'linear' },
                    { at: 0, value: 0, ease: 'linear', anchor: 'end' },
                  ]
                : value[0]!.value,
            })
          }
        >
          {steady ? 'shape' : 'steady'}
        </button>
      </label>
    );
  };
  return (
    <div className="flex flex-col gap-1.5 text-[12px] text-fog">
      <select
        className="field py-0.5"
        aria-label="Generator"
        value={by?.kind ?? ''}
        onChange={(event) => pick(event.currentTarget.value)}
      >
        <option value="">nothing</option>
        {GENERATOR_KINDS.map((kind) => (
          <option key={kind} value={kind}>
            {GENERATOR_NAMES[kind]}
          </option>
        ))}
      </select>
      {by && (
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
          {'amount' in by && field('amount', 'Amount ±', spec.unit === 'choice' ? '' : spec.unit)}
          {'rate' in by && field('rate', 'Rate', 'a second', 0.5)}
          {by.kind === 'noise' && (
            <label className="flex items-center gap-1">
              Roughness
              <NumberField
                label="Roughness"
                value={Math.round(by.rough * 100)}
                min={0}
                max={100}
                onValue={(v) => set({ rough: v / 100 })}
              />
              %
            </label>
          )}
          {by.kind === 'sine' && (
            <label className="flex items-center gap-1">
              Phase
              <NumberField
                label="Phase"
                value={by.phase}
                min={-10}
                max={10}
                step={0.05}
                onValue={(phase) => set({ phase })}
              />
              swings
            </label>
          )}
          {'every' in by && (
            <label className="flex items-center gap-1">
              Every
              <NumberField
                label="Frames for each value"
                value={by.every}
                min={1}
                max={600}
                onValue={(every) => set({ every })}
              />
              f
            </label>
          )}
          {by.kind === 'pulses' && (
            <>
              <label className="flex items-center gap-1">
                Length
                <NumberField
                  label="Length of a pulse"
                  value={by.length}
                  min={1}
                  max={600}
                  onValue={(length) => set({ length })}
                />
                f
              </label>
              <label className="flex items-center gap-1">
                Spread
                <NumberField
                  label="Spread of heights"
                  value={Math.round(by.spread * 100)}
                  min={0}
                  max={100}
                  onValue={(v) => set({ spread: v / 100 })}
                />
                %
              </label>
            </>
          )}
          {by.kind === 'gate' && (
            <>
              <label className="flex items-center gap-1">
                Decides every
                <NumberField
                  label="Frames between decisions"
                  value={by.period}
                  min={1}
                  max={600}
                  onValue={(period) => set({ period })}
                />
                f
              </label>
              <label className="flex items-center gap-1">
                On for
                <NumberField
                  label="Frames it is on"
                  value={by.open}
                  min={1}
                  max={600}
                  onValue={(open) => set({ open })}
                />
                f
              </label>
              {field('chance', 'Chance', '%', 5, 100)}
            </>
          )}
          {by.kind === 'cadence' && (
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                checked={by.once}
                onChange={(event) => set({ once: event.currentTarget.checked })}
              />
              once
            </label>
          )}
          {by.kind === 'run' && (
            <>
              <label className="flex items-center gap-1">
                From
                <NumberField
                  label="First value of the run"
                  value={by.from}
                  min={spec.min}
                  max={spec.max}
                  step={dragStep(spec)}
                  onValue={(from) => set({ from })}
                />
              </label>
              <label className="flex items-center gap-1">
                to
                <NumberField
                  label="Last value of the run"
                  value={by.to}
                  min={spec.min}
                  max={spec.max}
                  step={dragStep(spec)}
                  onValue={(to) => set({ to })}
                />
              </label>
              <label className="flex items-center gap-1">
                <input
                  type="checkbox"
                  checked={by.glide !== null}
                  onChange={(event) => set({ glide: event.currentTarget.checked ? 'both slow' : null })}
                />
                glides
              </label>
            </>
          )}
          {(by.kind === 'cadence' || by.kind === 'run') && (
            <ListField
              key={listText(by.values)}
              values={by.values}
              empty={by.kind === 'run'}
              onValues={(values) => set({ values })}
            />
          )}
          {by.kind !== 'run' && by.kind !== 'sine' && by.kind !== 'cadence' && (
            <label className="flex items-center gap-1" title="Rows with the same clock make the same decisions">
              Clock
              <input
                className="field w-20 px-1 py-0"
                aria-label="Shared clock"
                value={by.clock ?? ''}
                maxLength={40}
                placeholder="own"
                onChange={(event) => set({ clock: event.currentTarget.value || undefined })}
              />
            </label>
          )}
        </div>
      )}
    </div>
  );
}

function ListField({
  values,
  empty,
  onValues,
}: {
  values: readonly (number | null)[];
  empty: boolean;
  onValues: (values: (number | null)[]) => void;
}) {
  return (
    <label className="flex w-full items-center gap-1">
      Values
      <input
        className="field mono min-w-0 grow px-1 py-0"
        aria-label="Listed values"
        defaultValue={listText(values)}
        placeholder={empty ? 'evenly divided' : '5 plain -5 plain'}
        onBlur={(event) => {
          const read = readList(event.currentTarget.value);
          if (read && (empty || read.length)) onValues(read);
          else {
            notice('A list holds numbers and the word plain.', 'error');
            event.currentTarget.value = listText(values);
          }
        }}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
    </label>
  );
}
