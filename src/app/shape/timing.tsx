/** How the accent lies on a hit: its time, its borders, its seed, and what it does to the eye. */
import { useEffect, useMemo, useState } from 'react';
import { Dices } from 'lucide-react';
import { hasClosingKeys, inUnit, withTail } from '../../core/accents/prepare.ts';
import { changeAccent, setSettings } from '../../core/document/edits.ts';
import { ACTS, CONFINES, COVERS, ALIGNS, TIME_UNITS, UNTILS, type Accent } from '../../core/document/types.ts';
import { rateLabel } from '../../core/base/time.ts';
import type { Measured } from '../../engine/index.ts';
import { Choice } from '../parts/choice.tsx';
import { FlashLine } from '../parts/flash-line.tsx';
import { randomSeed } from '../parts/seed.ts';
import { NumberField } from '../parts/number-field.tsx';
import { seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { frameServer } from '../stores/media.ts';
import { edit } from '../stores/montage.ts';
import { usePreferences } from '../stores/view.ts';
import { RampPanel } from './ramp.tsx';
import { SoundLag } from './sound-lag.tsx';
import { useChosenAccent, usePlacedAccent } from './shaping.ts';

const NAMES = {
  align: { start: 'its start', peak: 'its frame 0', end: 'its end' },
  unit: { frames: 'frames', ms: 'milliseconds', beats: 'beats', '%': '% of lead and tail' },
  confine: { carry: 'runs over the join', cut: 'is cut off', squeeze: 'is squeezed' },
  cover: {
    mirror: 'mirrored',
    clamp: 'stretched edge',
    accent: 'least enlargement, its frames',
    shot: 'least enlargement, whole shot',
  },
  until: { tail: 'after its tail', end: 'at the hit’s end', clip: 'at the clip’s end', next: 'before the next hit' },
} as const;

export function Timing() {
  const accent = useChosenAccent()!;
  const { line, montage } = useDerived()!;
  const set = (part: Partial<Accent>, group?: string): void =>
    edit(
      changeAccent(accent.id, (a) => ({ ...a, ...part })),
      group && `${group}-${accent.id}`,
    );
  const clock = { fps: line.fps, bpm: montage.settings.bpm };
  const pick = <K extends keyof typeof NAMES>(
    name: K,
    label: string,
    options: readonly (keyof (typeof NAMES)[K] & string)[],
  ): React.ReactNode => (
    <label className="grid grid-cols-[120px_1fr] items-center gap-2 text-[12px] text-fog">
      {label}
      <select
        className="field min-w-0 py-0.5"
        value={accent[name] as string}
        onChange={(event) => {
          const value = event.currentTarget.value;
          if (name === 'unit') edit(changeAccent(accent.id, (a) => inUnit(a, value as Accent['unit'], clock)));
          else set({ [name]: value } as Partial<Accent>);
        }}
      >
        {options.map((option) => (
          <option key={option} value={option}>
            {NAMES[name][option] as string}
          </option>
        ))}
      </select>
    </label>
  );
  const closing = usePreferences((s) => s.closingKeys);
  /** The accent before its tail was changed, while it is asked whether its closing keys go along. */
  const [before, setBefore] = useState<Accent | null>(null);
  const asked = before?.id === accent.id && before.tail !== accent.tail ? before : null;
  const setReach = (end: 'lead' | 'tail', value: number): void => {
    if (end === 'lead' || !hasClosingKeys(accent)) return set({ [end]: value }, end);
    if (closing) return edit(changeAccent(accent.id, (a) => withTail(a, value)));
    if (closing === null) setBefore(accent);
    set({ tail: value });
  };
  const answer = (along: boolean): void => {
    usePreferences.setState({ closingKeys: along });
    const { tail } = accent;
    if (along && asked) edit(changeAccent(accent.id, () => withTail(asked, tail)));
    setBefore(null);
  };
  const inFrames = accent.unit === 'frames' || accent.unit === '%';
  return (
    <>
      <div className="flex items-center gap-3 text-[12px] text-fog">
        {(['lead', 'tail'] as const).map((end) => (
          <label key={end} className="flex items-center gap-1">
            {end}
            <NumberField
              label={end}
              value={accent[end]}
              min={0}
              max={inFrames ? 3600 : 120000}
              step={inFrames ? 1 : accent.unit === 'ms' ? 10 : 0.25}
              onLeave
              onValue={(value) => setReach(end, inFrames ? Math.round(value) : value)}
            />
          </label>
        ))}
        <span className="whitespace-nowrap">{inFrames ? `at ${rateLabel(accent.rate)}/s` : accent.unit}</span>
        {accent.unit === 'beats' && (
          <label className="flex items-center gap-1">
            of
            <NumberField
              label="Beats a minute"
              value={montage.settings.bpm}
              min={20}
              max={400}
              onValue={(bpm) => edit(setSettings({ bpm }), 'bpm')}
            />
            bpm
          </label>
        )}
      </div>
      {asked && (
        <div
          className="flex flex-wrap items-center gap-2 rounded-md bg-plank p-2 text-[12px]"
          role="group"
          aria-label="Closing keys"
        >
          <span className="w-full">
            Some keys lie on the old end, {asked.tail} after the hit. Do they move to the new one, now and from now on?
          </span>
          <button className="key" onClick={() => answer(true)}>
            Move them along
          </button>
          <button className="key" onClick={() => answer(false)}>
            Leave them
          </button>
        </div>
      )}
      {closing !== null && (
        <label className="flex items-center gap-2 text-[12px] text-fog">
          <input
            type="checkbox"
            className="accent-lamp"
            checked={closing}
            onChange={(event) => usePreferences.setState({ closingKeys: event.currentTarget.checked })}
          />
          Keys on the end move with it
        </label>
      )}
      {pick('align', 'On the hit lies', ALIGNS)}
      {pick('unit', 'Time counts in', TIME_UNITS)}
      {pick('until', 'It ends', UNTILS)}
      {pick('confine', 'Over a join it', CONFINES)}
      {montage.sources.some(({ subject }) => subject) && (
        <label className="grid grid-cols-[120px_1fr] items-center gap-2 text-[12px] text-fog">
          It acts on
          <Choice
            label="What it acts on"
            value={accent.acts ?? 'all'}
            options={ACTS}
            names={{ all: 'all of the picture', subject: 'the subject', behind: 'what is behind it' }}
            onValue={(acts) => set({ acts })}
          />
        </label>
      )}
      {montage.sources.some(({ shields }) => shields?.length) && (
        <label className="flex items-center gap-2 text-[12px] text-fog">
          <input
            type="checkbox"
            className="accent-lamp"
            checked={accent.overShields ?? false}
            onChange={(event) => set({ overShields: event.currentTarget.checked })}
          />
          acts on shielded areas, too
        </label>
      )}
      {pick('cover', 'Borders are', COVERS)}
      <label className="flex items-center gap-2 text-[12px] text-fog">
        <input
          type="checkbox"
          className="accent-lamp"
          checked={accent.exact}
          onChange={(event) => set({ exact: event.currentTarget.checked })}
        />
        Exact frames at any rate
      </label>
      <div className="flex items-center gap-2 text-[12px] text-fog">
        Seed
        <input
          className="field mono w-28 py-0"
          aria-label="Seed"
          value={accent.seed}
          onChange={(event) => {
            const seed = Math.round(Number(event.currentTarget.value));
            if (seed >= 0 && seed < 2 ** 32) set({ seed }, 'seed');
          }}
        />
        <button
          className="key-quiet"
          title="Another seed; undo brings the same again"
          onClick={() => set({ seed: randomSeed() })}
        >
          <Dices size={15} />
          Another
        </button>
      </div>
      <RampPanel />
      <Scope />
      <SoundLag />
    </>
  );
}

const [WIDTH, HEIGHT] = [310, 64];

/** Throw and brightness of the picture over the accent's frames, and its flashes. */
function Scope() {
  const shaped = usePlacedAccent();
  const derived = useDerived();
  const [measured, setMeasured] = useState<Measured | null>(null);
  const audition = shaped?.audition;
  const [from, to] = shaped ? [shaped.placed.from, Math.min(shaped.placed.to, shaped.placed.from + 240)] : [0, 0];
  useEffect(() => {
    if (!audition) return;
    let alive = true;
    const timer = setTimeout(
      () =>
        void frameServer()
          .measure(from, to, { audition, plain: false })
          .then(
            (result) => alive && setMeasured(result),
            () => undefined,
          ),
      250,
    );
    return () => {
      alive = false;
      clearTimeout(timer);
    };
  }, [audition, from, to]);
  const lines = useMemo(() => {
    if (!measured?.frames.length) return null;
    const n = Math.max(1, measured.frames.length - 1);
    const most = Math.max(0.02, ...measured.frames.map((f) => f.displacement));
    const path = (value: (i: number) => number): string =>
      measured.frames
        .map(
          (_, i) =>
            `${i ? 'L' : 'M'}${((i / n) * WIDTH).toFixed(1)} ${(HEIGHT - 2 - value(i) * (HEIGHT - 4)).toFixed(1)}`,
        )
        .join(' ');
    return {
      most,
      thrown: path((i) => measured.frames[i]!.displacement / most),
      light: path((i) => Math.min(1, Math.sqrt(measured.frames[i]!.brightness))),
    };
  }, [measured]);
  if (!shaped || !derived) return null;
  const { flashes } = measured ?? {};
  return (
    <section aria-label="Scope" className="flex flex-col gap-1">
      <h3 className="caption">What it does</h3>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full rounded-md bg-night"
        role="img"
        aria-label="Movement and brightness over the frames"
      >
        {lines && (
          <>
            <path d={lines.light} className="stroke-lamp" fill="none" strokeWidth={1.5} />
            <path d={lines.thrown} className="stroke-tide" fill="none" strokeWidth={1.5} />
          </>
        )}
        <line
          x1={((shaped.placed.frame - from) / Math.max(1, to - from)) * WIDTH}
          x2={((shaped.placed.frame - from) / Math.max(1, to - from)) * WIDTH}
          y1={0}
          y2={HEIGHT}
          className="stroke-sail/50"
        />
      </svg>
      <p className="flex justify-between text-[12px]">
        <span className="text-tide">movement, at most {lines ? (lines.most * 100).toFixed(1) : '–'} % of height</span>
        <span className="text-lamp">brightness</span>
      </p>
      {flashes && (
        <FlashLine
          flashes={flashes}
          where={flashes.at === null ? null : () => seek(derived.line.frameAt(flashes.at!))}
        />
      )}
    </section>
  );
}
