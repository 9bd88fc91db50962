/** Slow motion as part of an accent: steps about the hit, and what becomes of the time they win. */
import { Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { changeAccent } from '../../core/document/edits.ts';
import { LIMITS } from '../../core/document/limits.ts';
import { BETWEENS, GAINED, RAMP_ENDS, SLOWED_SOUNDS, type Clip, type Ramp } from '../../core/document/types.ts';
import { Choice } from '../parts/choice.tsx';
import { counted } from '../parts/counted.ts';
import { BETWEEN_NAMES, RAMP_END_NAMES, SLOWED_NAMES } from '../parts/speed-names.ts';
import { NumberField } from '../parts/number-field.tsx';
import { hitsOnBeats } from '../../core/timeline/land.ts';
import { derivedNow, useDerived } from '../stores/derived.ts';
import { musicTimes } from '../stores/row.ts';
import { edit } from '../stores/montage.ts';
import { useChosenAccent } from './shaping.ts';

const NEW: Ramp = {
  before: 0,
  steps: [75, 50, 25, 10].map((percent) => ({ speed: percent / 100, frames: 10 })),
  smooth: false,
  gained: 'kept',
  most: 2,
  between: 'blended',
  sound: 'follows',
};

const GAINED_NAMES: Record<Ramp['gained'], string> = {
  kept: 'is kept: the row grows',
  'paid back': 'is paid back: faster around it',
  cut: 'is cut off the clip’s end',
};

/** Ids of hits on beats of the music; null where there is none. */
function onBeatsNow(): ReadonlySet<string> | null {
  const derived = derivedNow();
  const beats = derived?.montage.music.length ? musicTimes(derived).beats : [];
  return derived && beats.length ? hitsOnBeats(derived.line, derived.everywhere, beats) : null;
}

/** What a change did to hits on beats, in words; empty where there are none. */
function beatsSaid(before: ReadonlySet<string> | null, after: ReadonlySet<string> | null): string {
  if (!before || !after) return '';
  const left = [...before].filter((id) => !after.has(id)).length;
  const come = [...after].filter((id) => !before.has(id)).length;
  if (!left && !come) return 'No hit leaves its beat.';
  return `${left ? `${counted(left, 'hit')} ${left === 1 ? 'leaves its beat' : 'leave their beats'}` : 'No hit leaves its beat'}${come ? `, ${counted(come, 'hit')} now on one` : ''}.`;
}

/** Frames by which the row is longer, in words. */
const frames = (won: number): string =>
  won === 0 ? 'the row is as long as before' : `the row is ${Math.abs(won)} frames ${won > 0 ? 'longer' : 'shorter'}`;

export function RampPanel() {
  const accent = useChosenAccent()!;
  const { line, planner, montage } = useDerived()!;
  /** What the last change did to hits on beats. */
  const [said, setSaid] = useState<{ readonly accent: string; readonly text: string } | null>(null);
  const { ramp } = accent;
  const set = (next: Ramp | undefined, group?: string): void => {
    const before = onBeatsNow();
    edit(
      changeAccent(accent.id, ({ ramp: _, ...rest }) => (next ? { ...rest, ramp: next } : rest)),
      group && `ramp-${group}-${accent.id}`,
    );
    setSaid({ accent: accent.id, text: beatsSaid(before, onBeatsNow()) });
  };
  const beatsChanged = said?.accent === accent.id ? said.text : '';
  if (!ramp)
    return (
      <section aria-label="Speed about the hit" className="flex items-center justify-between text-[12px] text-fog">
        <span>Speed about the hit: as recorded</span>
        <button className="key" onClick={() => set(montage.music.length ? { ...NEW, gained: 'paid back' } : NEW)}>
          Slow it
        </button>
      </section>
    );
  const change = (part: Partial<Ramp>, group?: string): void => set({ ...ramp, ...part }, group);
  const step = (at: number, part: Partial<Ramp['steps'][number]>): void =>
    change({ steps: ramp.steps.map((one, i) => (i === at ? { ...one, ...part } : one)) }, `step-${at}`);
  const on = planner.placements.filter((p) => !p.muted && p.accent.accent.id === accent.id);
  const clips = new Set(on.flatMap((p) => line.spanAt(p.occurrence.frame) ?? []));
  const won = [...clips].reduce((sum, { map }) => sum + (map?.gained ?? 0), 0);
  const inClip = (is: (clip: Clip) => boolean): number =>
    on.filter((p) => {
      const span = line.spanAt(p.occurrence.frame);
      return span !== null && is(span.clip);
    }).length;
  const landed = inClip(({ pins }) => Boolean(pins?.length));
  const keyed = inClip(({ speeds, pins }) => Boolean(speeds?.length) && !pins?.length);
  const pick = <K extends 'gained' | 'between' | 'sound'>(
    name: K,
    label: string,
    options: readonly Ramp[K][],
    names: Record<Ramp[K], string>,
  ) => (
    <div className="grid grid-cols-[120px_1fr] items-center gap-2">
      {label}
      <Choice
        label={label}
        value={ramp[name]}
        options={options}
        names={names}
        onValue={(value) => change({ [name]: value } as Partial<Ramp>)}
      />
    </div>
  );
  return (
    <section aria-label="Speed about the hit" className="flex flex-col gap-2 text-[12px] text-fog">
      <div className="flex items-center justify-between">
        <h3 className="caption">Speed about the hit</h3>
        <button className="key-quiet" onClick={() => set(undefined)}>
          As recorded again
        </button>
      </div>
      <ol className="flex flex-col gap-1" aria-label="Speeds, one after another">
        {ramp.steps.map(({ speed, frames }, i) => (
          <li key={i} className="flex items-center gap-2">
            <NumberField
              label={`Speed ${i + 1}, percent`}
              value={Math.round(speed * 1000) / 10}
              min={0}
              max={LIMITS.speed.max * 100}
              step={5}
              className="field mono w-16 px-1 py-0 text-[12px]"
              onValue={(percent) => step(i, { speed: percent / 100 })}
            />
            % for
            <NumberField
              label={`Frames of speed ${i + 1}`}
              value={frames}
              min={1}
              max={3600}
              onValue={(value) => step(i, { frames: Math.round(value) })}
            />
            frames
            <button
              className="key-quiet ml-auto"
              aria-label={`Remove speed ${i + 1}`}
              disabled={ramp.steps.length === 1}
              onClick={() => change({ steps: ramp.steps.filter((_, k) => k !== i) })}
            >
              <Trash2 size={13} />
            </button>
          </li>
        ))}
      </ol>
      <div className="flex items-center gap-3">
        <button
          className="key-quiet -ml-1.5"
          disabled={ramp.steps.length >= LIMITS.rampSteps}
          onClick={() => change({ steps: [...ramp.steps, ramp.steps.at(-1)!] })}
        >
          <Plus size={13} />
          Another speed
        </button>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-lamp"
            checked={ramp.smooth}
            onChange={(event) => change({ smooth: event.currentTarget.checked })}
          />
          smoothly from one to the next
        </label>
      </div>
      <label className="flex items-center gap-2">
        Begins
        <NumberField
          label="Frames of it before the hit"
          value={ramp.before}
          min={0}
          max={600}
          onValue={(before) => change({ before: Math.round(before) }, 'before')}
        />
        frames before the hit
      </label>
      <div className="grid grid-cols-[120px_1fr] items-center gap-2">
        Last speed ends
        <Choice
          label="Last speed ends"
          value={ramp.until ?? 'steps'}
          options={RAMP_ENDS}
          names={RAMP_END_NAMES}
          onValue={(until) => change({ until })}
        />
      </div>
      {pick('gained', 'Time won', GAINED, GAINED_NAMES)}
      {ramp.gained === 'paid back' && (
        <label className="flex items-center gap-2">
          at no more than
          <NumberField
            label="Largest speed, percent"
            value={Math.round(ramp.most * 100)}
            min={100}
            max={LIMITS.speed.max * 100}
            step={10}
            className="field mono w-16 px-1 py-0 text-[12px]"
            onValue={(percent) => change({ most: percent / 100 }, 'most')}
          />
          %
        </label>
      )}
      {pick('between', 'Between frames', BETWEENS, BETWEEN_NAMES)}
      {pick('sound', 'Its sound', SLOWED_SOUNDS, SLOWED_NAMES)}
      <p role="status">
        {on.length
          ? `Laid on ${counted(on.length, 'hit')}: ${frames(Math.round(won))}.`
          : 'It lies on no hit yet: lay the accent on one, and the row slows there.'}
        {landed > 0 &&
          ` ${counted(landed, 'hit')} in clips that are landed on the music: the landed hits stay on their beats, and the time is taken from between them.`}
        {keyed > 0 && ` ${counted(keyed, 'hit')} in clips with speeds of their own along them, which take no ramp.`}
        {beatsChanged && <span data-beats-left> {beatsChanged}</span>}
      </p>
    </section>
  );
}
