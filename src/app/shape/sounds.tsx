/** What an accent sounds like, and what it does to everything else that is heard. */
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { nanoid } from 'nanoid';
import { Play, Plus, Trash2 } from 'lucide-react';
import { changeAccent } from '../../core/document/edits.ts';
import { LIMITS } from '../../core/document/limits.ts';
import {
  CHANGED_LANES,
  LANE_CHANGES,
  SOUND_LENGTHS,
  SOUND_MOMENTS,
  SOUND_PICKS,
  SOUND_PLACES,
  type AccentSound,
  type Key,
  type LaneMove,
  type SoundAsset,
} from '../../core/document/types.ts';
import { madeSound } from '../../core/sound/made/index.ts';
import { Choice } from '../parts/choice.tsx';
import { NumberField } from '../parts/number-field.tsx';
import { edit } from '../stores/montage.ts';
import { addSound, changeSound, hearOn, removeSound } from '../stores/sounds.ts';
import { useChosenAccent, useShapingFrame } from './shaping.ts';

const SoundShelf = lazy(() => import('./sound-shelf.tsx').then((m) => ({ default: m.SoundShelf })));

const MOMENT_NAMES: Record<AccentSound['moment'], string> = {
  begin: 'its beginning',
  peak: 'its loudest moment',
  end: 'its end',
};
const PLACE_NAMES: Record<AccentSound['place'], string> = {
  hit: 'on the hit',
  peak: 'on the accent’s peak',
  start: 'where the accent begins',
  end: 'where the accent ends',
};
const LENGTH_NAMES: Record<AccentSound['length'], string> = {
  whole: 'whole',
  cut: 'cut where the accent ends',
  stretched: 'stretched to the accent',
};
const PICK_NAMES: Record<AccentSound['pick'], string> = { turn: 'in turn', lot: 'by lot' };
const LANE_NAMES: Record<LaneMove['lane'], string> = { music: 'the music', clips: 'the clips', both: 'both' };
/** What the amount of each change is: a word before it, its unit, its bounds, and what it begins with. */
const AMOUNTS: Record<LaneMove['change'], { before: string; unit: string; min: number; max: number; usual: number }> = {
  lower: { before: 'by', unit: 'dB', min: 0, max: 96, usual: 9 },
  'low-pass': { before: 'above', unit: 'Hz', ...LIMITS.cutoff, usual: 500 },
  'high-pass': { before: 'below', unit: 'Hz', ...LIMITS.cutoff, usual: 400 },
  echo: { before: 'every', unit: 'ms', min: 10, max: 2000, usual: 250 },
  room: { before: 'of', unit: 's', min: 0.1, max: 10, usual: 1.2 },
};
const CHANGE_NAMES: Record<LaneMove['change'], string> = {
  lower: 'lowers',
  'low-pass': 'takes the highs off',
  'high-pass': 'takes the lows off',
  echo: 'echoes',
  room: 'puts into a room',
};

export const soundName = (asset: SoundAsset): string =>
  'made' in asset ? (madeSound(asset.made)?.name ?? `${asset.made}, which this Akmeon does not know`) : asset.name;

/** A label with what it names, in two columns. */
function Line({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[72px_1fr] items-center gap-2">
      {label}
      <span className="flex min-w-0 flex-wrap items-center gap-1">{children}</span>
    </div>
  );
}

export function Sounds() {
  const accent = useChosenAccent()!;
  const frame = useShapingFrame();
  const [shelf, setShelf] = useState<'new' | string | null>(null);
  const { sounds = [], lanes = [] } = accent;
  const take = (asset: SoundAsset): void => {
    const sound = sounds.find(({ id }) => id === shelf);
    if (sound) changeSound(accent.id, sound.id, { choices: [...sound.choices, asset] });
    else addSound(accent.id, asset);
    setShelf(null);
  };
  return (
    <div className="flex flex-col gap-2 text-[12px] text-fog">
      {sounds.map((sound) => (
        <SoundCard
          key={sound.id}
          accent={accent.id}
          sound={sound}
          tail={Math.max(1, accent.tail)}
          hear={frame === null ? null : () => hearOn(frame, accent, [{ ...sound, on: true }])}
          onAnother={() => setShelf(sound.id)}
        />
      ))}
      {sounds.length === 0 && <p>This accent makes no sound of its own yet.</p>}
      <button
        className="key self-start"
        disabled={sounds.length >= LIMITS.sounds}
        onClick={() => setShelf(shelf === 'new' ? null : 'new')}
        aria-expanded={shelf !== null}
      >
        <Plus size={14} />
        Add a sound
      </button>
      {shelf !== null && (
        <Suspense>
          <SoundShelf accent={accent} frame={frame} onTake={take} onClose={() => setShelf(null)} />
        </Suspense>
      )}
      <h3 className="caption mt-1">What it does to the rest</h3>
      {lanes.map((move) => (
        <LaneCard key={move.id} accent={accent.id} move={move} />
      ))}
      <button
        className="key self-start"
        disabled={lanes.length >= LIMITS.sounds}
        onClick={() =>
          edit(
            changeAccent(accent.id, (one) => ({
              ...one,
              lanes: [
                ...(one.lanes ?? []),
                {
                  id: nanoid(8),
                  on: true,
                  lane: 'music',
                  change: 'lower',
                  amount: 9,
                  begins: -4,
                  attack: 3,
                  hold: 8,
                  release: 12,
                },
              ],
            })),
          )
        }
      >
        <Plus size={14} />
        Lower the music
      </button>
    </div>
  );
}

function SoundCard({
  accent,
  sound,
  tail,
  hear,
  onAnother,
}: {
  accent: string;
  sound: AccentSound;
  /** Frames of the accent after its hit. */
  tail: number;
  hear: (() => void) | null;
  onAnother: () => void;
}) {
  const [more, setMore] = useState(false);
  const name = sound.choices.map(soundName).join(', ');
  const set = (change: Partial<AccentSound>, group?: string): void => changeSound(accent, sound.id, change, group);
  const number = (
    label: string,
    key: 'offset' | 'semitones' | 'fadeIn' | 'fadeOut' | 'spreadGain' | 'spreadPitch',
    min: number,
    max: number,
    step = 1,
  ) => (
    <NumberField
      label={`${label} of ${name}`}
      value={sound[key]}
      min={min}
      max={max}
      step={step}
      className="field mono w-12 px-1 py-0 text-[12px]"
      onValue={(value) => set({ [key]: value }, key)}
    />
  );
  const steady = typeof sound.gain === 'number' ? sound.gain : null;
  return (
    <section className="flex flex-col gap-1 rounded-md bg-plank px-3 py-2" aria-label={name} data-sound={sound.id}>
      <div className="flex items-center gap-1">
        <input
          type="checkbox"
          className="accent-tide"
          aria-label={`${name} is heard`}
          checked={sound.on}
          onChange={(event) => set({ on: event.currentTarget.checked })}
        />
        <span className="min-w-0 grow truncate text-[13px] text-sail" title={name}>
          {name}
        </span>
        <button className="key-quiet" aria-label={`Hear ${name}`} disabled={!hear} onClick={() => hear?.()}>
          <Play size={13} />
        </button>
        <button className="key-quiet" aria-label={`Remove ${name}`} onClick={() => removeSound(accent, sound.id)}>
          <Trash2 size={13} />
        </button>
      </div>
      <Line label="Lies with">
        <Choice
          label={`Moment of ${name}`}
          className="field min-w-0 py-0"
          value={sound.moment}
          options={SOUND_MOMENTS}
          names={MOMENT_NAMES}
          onValue={(moment) => set({ moment })}
        />
        <Choice
          label={`Place of ${name}`}
          className="field min-w-0 py-0"
          value={sound.place}
          options={SOUND_PLACES}
          names={PLACE_NAMES}
          onValue={(place) => set({ place })}
        />
      </Line>
      <Line label="Later by">{number('Offset', 'offset', -3600, 3600)} frames</Line>
      <Line label="Gain">
        {steady === null ? (
          <GainCurve keys={sound.gain as readonly Key[]} name={name} onKeys={(gain, group) => set({ gain }, group)} />
        ) : (
          <>
            <input
              className="range w-20"
              type="range"
              min={-36}
              max={12}
              step={0.5}
              aria-label={`Gain of ${name}`}
              value={Math.max(-36, Math.min(12, steady))}
              onChange={(event) => set({ gain: Number(event.currentTarget.value) }, 'gain')}
            />
            <NumberField
              label={`Gain of ${name}, decibels`}
              value={steady}
              min={LIMITS.decibels.min}
              max={LIMITS.decibels.max}
              step={0.5}
              className="field mono w-14 px-1 py-0 text-[12px]"
              onValue={(gain) => set({ gain }, 'gain')}
            />
            dB
            <button
              className="key-quiet px-0.5"
              aria-label={`Gain of ${name} along a curve`}
              title="Another gain at other frames"
              onClick={() =>
                set({
                  gain: [
                    { at: 0, value: steady, ease: 'linear' },
                    { at: tail, value: Math.max(LIMITS.decibels.min, steady - 12), ease: 'linear' },
                  ],
                })
              }
            >
              curve
            </button>
          </>
        )}
      </Line>
      <button className="key-quiet -ml-1.5 self-start" aria-expanded={more} onClick={() => setMore(!more)}>
        {more ? 'Less' : 'More'}
      </button>
      {more && (
        <>
          {sound.choices.map((asset, i) => (
            <AssetFields key={i} sound={sound} accent={accent} asset={asset} at={i} />
          ))}
          <Line label="Another">
            <button className="key-quiet -ml-1.5" onClick={onAnother}>
              <Plus size={13} />
              to choose from
            </button>
            {sound.choices.length > 1 && (
              <Choice
                label={`Which of ${name}`}
                className="field py-0"
                value={sound.pick}
                options={SOUND_PICKS}
                names={PICK_NAMES}
                onValue={(pick) => set({ pick })}
              />
            )}
          </Line>
          <Line label="Length">
            <Choice
              label={`Length of ${name}`}
              className="field min-w-0 py-0"
              value={sound.length}
              options={SOUND_LENGTHS}
              names={LENGTH_NAMES}
              onValue={(length) => set({ length })}
            />
          </Line>
          <Line label="Pitch">
            {number('Pitch', 'semitones', LIMITS.semitones.min, LIMITS.semitones.max)} semitones
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                className="accent-tide"
                aria-label={`${name} backwards`}
                checked={sound.reversed}
                onChange={(event) => set({ reversed: event.currentTarget.checked })}
              />
              backwards
            </label>
          </Line>
          <Line label="Fades">
            {number('Fade in', 'fadeIn', 0, 60, 0.05)} in, {number('Fade out', 'fadeOut', 0, 60, 0.05)} out, s
          </Line>
          <Line label="Differs by">
            {number('Spread of gain', 'spreadGain', 0, 24, 0.5)} dB,
            {number('Spread of pitch', 'spreadPitch', 0, 12, 0.5)} semitones
          </Line>
          <Line label="Intensity">
            <input
              className="range w-24"
              type="range"
              min={0}
              max={1}
              step={0.05}
              aria-label={`How far ${name} follows the intensity`}
              value={sound.follow}
              onChange={(event) => set({ follow: Number(event.currentTarget.value) }, 'follow')}
            />
            {Math.round(sound.follow * 100)} % followed
          </Line>
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-tide"
              checked={sound.focus}
              onChange={(event) => set({ focus: event.currentTarget.checked })}
            />
            from the side that the hit’s focus is on
          </label>
        </>
      )}
    </section>
  );
}

/** Gains at frames of the accent; between two of them it runs evenly in decibels. */
function GainCurve({
  keys,
  name,
  onKeys,
}: {
  keys: readonly Key[];
  name: string;
  onKeys: (gain: AccentSound['gain'], group?: string) => void;
}) {
  const put = (at: number, change: Partial<Key>): void =>
    onKeys(
      keys
        .map((key, i) => (i === at ? { ...key, ...change } : key))
        .sort((a, b) => a.at - b.at)
        .filter((key, i, all) => key.at !== all[i + 1]?.at),
      'gain',
    );
  const last = keys.at(-1)!;
  return (
    <span className="flex flex-col gap-1">
      {keys.map(({ at, value }, i) => (
        <span key={i} className="flex items-center gap-1">
          <NumberField
            label={`Frame of gain ${i + 1} of ${name}`}
            value={at}
            min={-3600}
            max={3600}
            className="field mono w-12 px-1 py-0 text-[12px]"
            onLeave
            onValue={(frame) => put(i, { at: frame })}
          />
          <NumberField
            label={`Gain ${i + 1} of ${name}, decibels`}
            value={value}
            min={LIMITS.decibels.min}
            max={LIMITS.decibels.max}
            step={0.5}
            className="field mono w-14 px-1 py-0 text-[12px]"
            onValue={(decibels) => put(i, { value: decibels })}
          />
          dB
          <button
            className="key-quiet px-0.5"
            aria-label={`Remove gain ${i + 1} of ${name}`}
            onClick={() => onKeys(keys.length > 2 ? keys.filter((_, k) => k !== i) : keys[i === 0 ? 1 : 0]!.value)}
          >
            <Trash2 size={12} />
          </button>
        </span>
      ))}
      <button className="key-quiet -ml-1.5 self-start" onClick={() => onKeys([...keys, { ...last, at: last.at + 4 }])}>
        <Plus size={12} />
        another frame
      </button>
    </span>
  );
}

/** Parameters of one of a sound's choices. */
function AssetFields({
  accent,
  sound,
  asset,
  at,
}: {
  accent: string;
  sound: AccentSound;
  asset: SoundAsset;
  at: number;
}) {
  const replace = (next: SoundAsset | null, group?: string): void =>
    changeSound(
      accent,
      sound.id,
      { choices: sound.choices.flatMap((one, i) => (i === at ? (next ? [next] : []) : [one])) },
      group,
    );
  const made = 'made' in asset ? madeSound(asset.made) : null;
  return (
    <>
      {sound.choices.length > 1 && (
        <div className="flex items-center gap-1 border-t border-rope pt-1">
          <span className="min-w-0 grow truncate text-sail">{soundName(asset)}</span>
          <button className="key-quiet" aria-label={`Take ${soundName(asset)} away`} onClick={() => replace(null)}>
            <Trash2 size={13} />
          </button>
        </div>
      )}
      {made &&
        'made' in asset &&
        Object.entries(made.params).map(([param, { label, unit, min, max, default: byDefault }]) => {
          const value = asset.params[param] ?? byDefault;
          const rounded = value >= 100 ? Math.round(value) : Math.round(value * 100) / 100;
          return (
            <Line key={param} label={label}>
              <input
                className="range w-20"
                type="range"
                min={min}
                max={max}
                step={(max - min) / 200}
                aria-label={`${label} of ${made.name}`}
                value={value}
                onChange={(event) =>
                  replace(
                    { ...asset, params: { ...asset.params, [param]: Number(event.currentTarget.value) } },
                    `${param}-${at}`,
                  )
                }
              />
              <span className="mono">
                {rounded} {unit}
              </span>
            </Line>
          );
        })}
    </>
  );
}

function LaneCard({ accent, move }: { accent: string; move: LaneMove }) {
  const set = (change: Partial<LaneMove> | null, group?: string): void =>
    edit(
      changeAccent(accent, ({ lanes = [], ...one }) => {
        const next = lanes.flatMap((lane) => (lane.id === move.id ? (change ? [{ ...lane, ...change }] : []) : [lane]));
        return next.length ? { ...one, lanes: next } : one;
      }),
      group && `lane-${move.id}-${group}`,
    );
  const lowers = move.change === 'lower';
  const amount = AMOUNTS[move.change];
  const frames = (label: string, key: 'attack' | 'hold' | 'release' | 'begins') => (
    <label className="flex items-center gap-1">
      {label}
      <NumberField
        label={`${label} in frames`}
        value={key === 'begins' ? -move.begins : move[key]}
        min={key === 'begins' ? -3600 : 0}
        max={3600}
        onValue={(value) => set({ [key]: key === 'begins' ? -value : value }, key)}
      />
    </label>
  );
  return (
    <section className="flex flex-col gap-1 rounded-md bg-plank px-3 py-2" aria-label={CHANGE_NAMES[move.change]}>
      <div className="flex flex-wrap items-center gap-1">
        <input
          type="checkbox"
          className="accent-tide"
          aria-label="It acts"
          checked={move.on}
          onChange={(event) => set({ on: event.currentTarget.checked })}
        />
        <Choice
          label="What is done"
          className="field py-0"
          value={move.change}
          options={LANE_CHANGES}
          names={CHANGE_NAMES}
          onValue={(change) => set({ change, amount: AMOUNTS[change].usual })}
        />
        <Choice
          label="What it is done to"
          className="field py-0"
          value={move.lane}
          options={CHANGED_LANES}
          names={LANE_NAMES}
          onValue={(lane) => set({ lane })}
        />
        <span className="grow" />
        <button className="key-quiet" aria-label="Remove it" onClick={() => set(null)}>
          <Trash2 size={13} />
        </button>
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <label className="flex items-center gap-1">
          {amount.before}
          <NumberField
            label={`Amount in ${amount.unit}`}
            value={move.amount}
            min={amount.min}
            max={amount.max}
            className="field mono w-16 px-1 py-0 text-[12px]"
            onValue={(value) => set({ amount: value }, 'amount')}
          />
          {amount.unit}
          {lowers && move.amount >= 96 && ': silence'}
        </label>
        {frames('beginning before the hit', 'begins')}
        {frames('in', 'attack')}
        {frames('held', 'hold')}
        {frames('out', 'release')}
        frames
        {lowers && (
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-tide"
              checked={move.adds ?? false}
              onChange={(event) => set({ adds: event.currentTarget.checked })}
            />
            on top of others
          </label>
        )}
      </div>
    </section>
  );
}
