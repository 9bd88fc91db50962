/** One rule: which accents, on which hits, how strong, and what it does where accents meet. */
import { useMemo, useState, type ReactNode } from 'react';
import { ChevronDown, ChevronRight, Plus, Trash2 } from 'lucide-react';
import { changeRule, decideAll, removeRule } from '../../core/document/edits.ts';
import { HIT_KINDS, type HitKind, type Rule } from '../../core/document/types.ts';
import { loudnessOf } from '../../core/accents/selection.ts';
import { carriedKinds } from '../../core/accents/placements.ts';
import { familyColour, KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { NumberField } from '../parts/number-field.tsx';
import { randomSeed } from '../parts/seed.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useRuleChange } from '../stores/rule-change.ts';
import { notice, useView } from '../stores/view.ts';
import { Sections } from './sections.tsx';
import { AccentPicker } from './accent-picker.tsx';

type Change = (part: Partial<Rule>, gesture?: string) => void;

export function RuleRow({ rule, count }: { rule: Rule; count: number }) {
  const { montage } = useDerived()!;
  const [open, setOpen] = useState(false);
  const name = montage.accents.find((a) => a.id === rule.accents[0]!.accent)?.name ?? 'an accent';
  const change: Change = (part, gesture) => edit(changeRule(rule.id, part), gesture && `${gesture}-${rule.id}`);
  return (
    <li
      className={`flex flex-col gap-1.5 rounded-md bg-plank p-2.5 ${rule.on ? '' : 'opacity-60'}`}
      data-rule={rule.id}
    >
      <div className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-lamp"
          checked={rule.on}
          aria-label={`Rule for ${name}`}
          onChange={(event) => change({ on: event.currentTarget.checked })}
        />
        <AccentPicker
          label="Accent of the rule"
          chosen={rule.accents[0]!.accent}
          onPick={(accent) => change({ accents: [{ ...rule.accents[0]!, accent }, ...rule.accents.slice(1)] })}
        />
        <Count rule={rule} count={count} />
        <button className="key-quiet" aria-label="Remove the rule" onClick={() => edit(removeRule(rule.id))}>
          <Trash2 size={14} />
        </button>
      </div>
      <Others rule={rule} change={change} />
      <Kinds rule={rule} change={change} />
      <Slider label="Follow strength" name="follow" rule={rule} change={change} />
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-[12px] text-fog">
        <label className="flex items-center gap-1">
          every
          <NumberField
            label="Every so many hits"
            value={rule.every}
            min={1}
            max={1000}
            onValue={(every) => change({ every: Math.round(every), phase: rule.phase % Math.round(every) }, 'every')}
          />
        </label>
        {rule.every > 1 && (
          <label className="flex items-center gap-1">
            from hit
            <NumberField
              label="First hit that is taken"
              value={rule.phase + 1}
              min={1}
              max={rule.every}
              onValue={(first) => change({ phase: Math.round(first) - 1 }, 'phase')}
            />
          </label>
        )}
        <Choice
          label="Place among the beats"
          value={rule.beat}
          options={{
            any: 'anywhere',
            on: 'on a beat',
            off: 'off the beat',
            '1': 'on beat 1, the downbeat',
            '2': 'on beat 2',
            '3': 'on beat 3',
            '4': 'on beat 4',
          }}
          onValue={(beat) => {
            if (beat !== 'any' && !montage.hits.some((hit) => hit.kind === 'beat' && hit.state === 'kept'))
              notice(
                'Keep the beats first: press “beat” among the kinds of any rule, then “Keep”, or keep them at Check.',
                'error',
              );
            change({ beat });
          }}
        />
        <Choice
          label="Which hits of a burst"
          value={rule.burst}
          options={{
            each: 'each of a burst',
            first: 'first of a burst',
            last: 'last of a burst',
            nth: 'every n-th of one',
          }}
          onValue={(burst) => change({ burst })}
        />
        {rule.burst === 'nth' && (
          <NumberField
            label="Every so many members of a burst"
            value={rule.burstEvery}
            min={1}
            max={1000}
            onValue={(burstEvery) => change({ burstEvery: Math.round(burstEvery) }, 'burst-every')}
          />
        )}
      </div>
      <button className="key-quiet self-start px-0 text-[12px]" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
        {open ? 'Less' : `More${said(rule)}`}
      </button>
      {open && <More rule={rule} change={change} />}
    </li>
  );
}

/** How many further things a rule says beside what is always shown. */
function said(rule: Rule): string {
  const things = [
    rule.minStrength > 0 || rule.maxStrength < 1,
    rule.loud !== undefined,
    Boolean(rule.sections?.length),
    rule.gap > 0,
    rule.chance < 1,
    rule.clips.length > 0,
    rule.ranges.length > 0,
    rule.apart > 0,
    rule.meet !== 'over',
    rule.mirror,
    rule.spread > 0,
    rule.run !== null,
  ].filter(Boolean).length;
  return things ? ` (${things} set)` : '';
}

/** How many accents it lays, and what the last change of it did to them. */
function Count({ rule, count }: { rule: Rule; count: number }) {
  const change = useRuleChange();
  const own = (list: readonly { readonly rule: Rule | null }[] = []): number =>
    list.filter((p) => p.rule?.id === rule.id).length;
  const [come, gone, changed] = [own(change?.come), own(change?.gone), own(change?.changed)];
  return (
    <span
      className="mono text-right text-[12px] whitespace-nowrap text-fog"
      data-change={`${come}/${gone}/${changed}`}
      title={`${count} placements; by the last change ${come} came, ${gone} went, ${changed} changed`}
    >
      {count}×{come > 0 && <b className="text-lamp"> +{come}</b>}
      {gone > 0 && <b className="text-ember"> −{gone}</b>}
      {changed > 0 && <b className="text-tide"> ~{changed}</b>}
    </span>
  );
}

/** Further accents of a rule, which lie on its hits in turn or by lot. */
function Others({ rule, change }: { rule: Rule; change: Change }) {
  const several = rule.accents.length > 1;
  const set = (at: number, part: Partial<Rule['accents'][number]>, gesture?: string): void =>
    change({ accents: rule.accents.map((one, i) => (i === at ? { ...one, ...part } : one)) }, gesture);
  const weight = (i: number): ReactNode =>
    rule.pick === 'random' && (
      <NumberField
        label={`Weight of accent ${i + 1}`}
        value={rule.accents[i]!.weight}
        min={0}
        max={1000}
        onValue={(value) => set(i, { weight: value }, `weight-${i}`)}
      />
    );
  return (
    <div className="flex flex-col gap-1 text-[12px] text-fog">
      {several && (
        <div className="flex items-center gap-2">
          <Choice
            label="How accents are picked"
            value={rule.pick}
            options={{ turn: 'in turn', random: 'at random, by seed and weight' }}
            onValue={(pick) => change({ pick })}
          />
          {rule.pick === 'random' && (
            <>
              <span className="grow" />
              {weight(0)}
              <button className="key px-1.5 py-0" onClick={() => change({ seed: randomSeed() })}>
                Reshuffle
              </button>
            </>
          )}
        </div>
      )}
      {rule.accents.slice(1).map(({ accent }, k) => (
        <div key={k} className="flex items-center gap-2">
          <span className="w-4 text-right">{k + 2}</span>
          <AccentPicker
            label={`Accent ${k + 2} of the rule`}
            chosen={accent}
            onPick={(id) => set(k + 1, { accent: id })}
          />
          {weight(k + 1)}
          <button
            className="key-quiet"
            aria-label={`Take accent ${k + 2} out of the rule`}
            onClick={() => change({ accents: rule.accents.filter((_, i) => i !== k + 1) })}
          >
            <Trash2 size={13} />
          </button>
        </div>
      ))}
      <label className="flex items-center gap-2">
        <Plus size={12} /> and
        <AccentPicker
          label="Another accent of the rule"
          onPick={(accent) => change({ accents: [...rule.accents, { accent, weight: 1 }] })}
        />
      </label>
    </div>
  );
}

function Kinds({ rule, change }: { rule: Rule; change: Change }) {
  const { montage, everywhere } = useDerived()!;
  const carried = useMemo(() => carriedKinds(everywhere.map(({ hit }) => hit)), [everywhere]);
  /** Kinds of which none is kept yet, with how many were found. */
  const open = useMemo(() => {
    const counts = new Map<HitKind, number>();
    for (const { hit } of everywhere)
      if (hit.state === 'found' && !carried.includes(hit.kind)) counts.set(hit.kind, (counts.get(hit.kind) ?? 0) + 1);
    return counts;
  }, [everywhere, carried]);
  const offered = HIT_KINDS.filter((kind) => carried.includes(kind) || rule.kinds.includes(kind) || open.has(kind));
  // Any family that was kept can be taken, those without a name of their own by how many they are.
  const families = montage.families.filter(({ id, state }) => state === 'kept' || rule.families.includes(id));
  const toggled = <T,>(list: readonly T[], one: T): T[] =>
    list.includes(one) ? list.filter((other) => other !== one) : [...list, one];
  const keep = (kind: HitKind): void => {
    const found = everywhere.filter(({ hit }) => hit.kind === kind && hit.state === 'found').map(({ hit }) => hit);
    edit(decideAll(found, 'kept'));
    notice(`${found.length} ${kindName(kind)} hits are kept. Undo takes it back.`);
  };
  return (
    <div className="flex flex-wrap gap-1" role="group" aria-label="Kinds and families of hits">
      {offered.map((kind) => (
        <button
          key={kind}
          className={`key py-0.5 ${open.has(kind) ? 'opacity-70' : ''}`}
          aria-pressed={rule.kinds.includes(kind)}
          title={`${open.has(kind) ? `${open.get(kind)} were found, none is kept. ` : ''}Double click: only these`}
          onClick={() => change({ kinds: toggled(rule.kinds, kind) })}
          onDoubleClick={() => change({ kinds: [kind], families: [], signs: [] })}
        >
          <span aria-hidden className="size-2 rounded-full" style={{ background: KIND_COLOURS[kind] }} />
          {kindName(kind)}
        </button>
      ))}
      {families.map((family) => (
        <button
          key={family.id}
          className="key py-0.5"
          aria-pressed={rule.families.includes(family.id)}
          title="Hits of this family alone"
          onClick={() => change({ families: toggled(rule.families, family.id) })}
        >
          <span
            aria-hidden
            className="size-2 rotate-45"
            style={{ background: familyColour({ named: family, kind: family.kind }) }}
          />
          {family.name || `${family.members.length} × ${kindName(family.kind)}`}
        </button>
      ))}
      {(montage.watches.length > 1 || rule.signs?.length ? montage.watches : []).map(({ id, name }) => (
        <button
          key={id}
          className="key py-0.5"
          aria-pressed={rule.signs?.includes(id) ?? false}
          title="Appearances of this sign alone"
          onClick={() => change({ signs: toggled(rule.signs ?? [], id) })}
        >
          <span aria-hidden className="size-2" style={{ background: KIND_COLOURS.popup }} />
          {name}
        </button>
      ))}
      {rule.kinds
        .filter((kind) => open.has(kind))
        .map((kind) => (
          <button key={kind} className="key-quiet py-0.5 text-lamp" onClick={() => keep(kind)}>
            Keep {open.get(kind)} {kindName(kind)} {open.get(kind) === 1 ? 'hit' : 'hits'}
          </button>
        ))}
      {offered.length === 0 && <span className="text-fog">No hits yet.</span>}
    </div>
  );
}

function Slider({
  label,
  name,
  rule,
  change,
}: {
  label: string;
  name: 'follow' | 'minStrength' | 'maxStrength' | 'chance';
  rule: Rule;
  change: Change;
}) {
  return (
    <label className="grid grid-cols-[96px_1fr_34px] items-center gap-2 text-[12px] text-fog">
      {label}
      <input
        className="range"
        type="range"
        min={0}
        max={1}
        step={0.01}
        value={rule[name]}
        onChange={(event) => change({ [name]: Number(event.currentTarget.value) }, name)}
      />
      <span className="mono text-right">{Math.round(rule[name] * 100)}</span>
    </label>
  );
}

function Choice<T extends string>({
  label,
  value,
  options,
  onValue,
}: {
  label: string;
  value: T;
  options: Readonly<Record<T, string>>;
  onValue: (value: T) => void;
}) {
  return (
    <select
      className="field max-w-36 min-w-0 py-0"
      aria-label={label}
      value={value}
      onChange={(event) => onValue(event.currentTarget.value as T)}
    >
      {(Object.entries(options) as [T, string][]).map(([key, text]) => (
        <option key={key} value={key}>
          {text}
        </option>
      ))}
    </select>
  );
}

/** The loudness of the hits that are taken, where it plays a part. */
function Loudness({ rule, change }: { rule: Rule; change: Change }) {
  const { montage } = useDerived()!;
  const heard = useMemo(() => loudnessOf(montage.hits), [montage.hits]);
  const { loud } = rule;
  if (!heard && !loud) return null;
  const end = (name: 'from' | 'to', label: string): ReactNode => (
    <label className="flex items-center gap-1">
      {name === 'from' ? 'from' : 'to'}
      <NumberField
        label={label}
        value={loud![name]}
        min={-200}
        max={50}
        onValue={(value) => change({ loud: { ...loud!, [name]: value } }, `loud-${name}`)}
      />
      dB
    </label>
  );
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <label className="flex items-center gap-1">
        <input
          type="checkbox"
          className="accent-lamp"
          checked={loud !== undefined}
          onChange={(event) => change({ loud: (event.currentTarget.checked && heard) || undefined })}
        />
        by loudness
      </label>
      {loud && (
        <>
          {end('from', 'From loudness')}
          {end('to', 'Up to loudness')}
          {heard && (
            <span title="Of the hits that were decided on, below full scale">
              heard: {heard.from} to {heard.to} dB
            </span>
          )}
        </>
      )}
    </div>
  );
}

function More({ rule, change }: { rule: Rule; change: Change }) {
  const { line } = useDerived()!;
  const view = useView((s) => s.view);
  const number = (
    label: string,
    value: number,
    max: number,
    unit: string,
    onValue: (value: number) => void,
    step = 1,
  ): ReactNode => (
    <label className="flex items-center gap-1">
      {label}
      <NumberField label={label} value={value} min={0} max={max} step={step} onValue={onValue} />
      {unit}
    </label>
  );
  const onlyHere = (): void => {
    const span = line.spanAt(useView.getState().playhead);
    if (!span) return;
    const id = span.clip.lineage ?? span.clip.id;
    change({ clips: rule.clips.includes(id) ? rule.clips.filter((one) => one !== id) : [...rule.clips, id] });
  };
  const onlyInSight = (): void => {
    if (!view) return notice('Zoom the landscape first: the rule is confined to what is in sight.', 'error');
    const at = (frame: number): number => line.timeOf(Math.max(0, Math.min(line.count, Math.round(frame))));
    change({ ranges: [...rule.ranges, { from: at(view[0]), to: at(view[1]) }] });
  };
  return (
    <div className="flex flex-col gap-1.5 text-[12px] text-fog">
      <Slider label="From strength" name="minStrength" rule={rule} change={change} />
      <Slider label="Up to strength" name="maxStrength" rule={rule} change={change} />
      <Slider label="Chance" name="chance" rule={rule} change={change} />
      <Loudness rule={rule} change={change} />
      <Sections
        chosen={rule.sections ?? []}
        onChosen={(sections) => change({ sections: sections.length ? sections : undefined })}
      />
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {number('least gap', rule.gap, 3600, 's', (gap) => change({ gap }, 'gap'), 0.1)}
        {number('away from others', rule.apart, 10_000, 'frames', (apart) => change({ apart }, 'apart'))}
        {number(
          'intensities vary by',
          Math.round(rule.spread * 100),
          100,
          '%',
          (v) => change({ spread: v / 100 }, 'spread'),
          5,
        )}
        <Choice
          label="Where accents meet"
          value={rule.meet}
          options={{
            over: 'where accents meet, both are drawn',
            cut: 'where accents meet, the earlier is cut off',
            yield: 'where accents meet, this rule gives way',
          }}
          onValue={(meet) => change({ meet })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        only in
        <button className="key px-1.5 py-0" onClick={onlyHere}>
          the clip at the playhead
        </button>
        <button className="key px-1.5 py-0" onClick={onlyInSight}>
          what is in sight
        </button>
        {rule.clips.length > 0 && (
          <button className="key px-1.5 py-0 text-lamp" onClick={() => change({ clips: [] })}>
            {rule.clips.length} clip{rule.clips.length > 1 ? 's' : ''} ×
          </button>
        )}
        {rule.ranges.map(({ from, to }, i) => (
          <button
            key={i}
            className="key mono px-1.5 py-0 text-lamp"
            onClick={() => change({ ranges: rule.ranges.filter((_, k) => k !== i) })}
          >
            {from.toFixed(1)}–{to.toFixed(1)} s ×
          </button>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="accent-lamp"
            checked={rule.mirror}
            onChange={(event) => change({ mirror: event.currentTarget.checked })}
          />
          mirror every second
        </label>
        <label
          className="flex items-center gap-1"
          title="One value a hit: rows that move by a run take one value at each hit, and last until the next"
        >
          <input
            type="checkbox"
            className="accent-lamp"
            aria-label="As a run"
            checked={rule.run !== null}
            onChange={(event) => change({ run: event.currentTarget.checked ? { count: 0, after: 'plain' } : null })}
          />
          as a run
        </label>
        {rule.run && (
          <>
            <label className="flex items-center gap-1">
              of
              <NumberField
                label="Hits in a run; 0 takes all"
                value={rule.run.count}
                min={0}
                max={1000}
                onValue={(value) => change({ run: { ...rule.run!, count: Math.round(value) } }, 'run-count')}
              />
              {rule.run.count === 0 ? 'all' : 'hits'}
            </label>
            <Choice
              label="After the last hit of a run"
              value={rule.run.after}
              options={{ plain: 'then nothing', stay: 'then stays' }}
              onValue={(after) => change({ run: { ...rule.run!, after } })}
            />
          </>
        )}
      </div>
    </div>
  );
}
