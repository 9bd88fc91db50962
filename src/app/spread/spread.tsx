/** Rules: which accent lies on which hits. */
import { useNavigate } from 'react-router';
import { Trash2 } from 'lucide-react';
import { changeRule, override, removeRule } from '../../core/montage/edits.ts';
import { HIT_KINDS, type HitKind, type Rule } from '../../core/montage/types.ts';
import { timecode } from '../../core/units/time.ts';
import type { Placement } from '../../core/rules/placements.ts';
import { KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { choose, spreadAccent } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useSession } from '../stores/session.ts';

export function Spread() {
  const derived = useDerived()!;
  const go = useNavigate();
  const accent = useSession((s) => s.accent);
  const chosen = useSession((s) => s.chosen);
  const { montage, planner, shown } = derived;
  const first = montage.accents.find((a) => a.id === accent) ?? montage.accents[0];
  const kinds = [...new Set(shown.filter((o) => o.hit.state === 'kept' || o.hit.state === 'made').map((o) => o.hit.kind))];
  const lying = planner.placements.filter((p) => !p.muted).length;
  const here = planner.placements.filter((p) => p.occurrence.key === chosen);
  return (
    <>
      <h2 className="caption">Rules</h2>
      <ol className="flex flex-col gap-2">
        {montage.rules.map((rule) => <RuleRow key={rule.id} rule={rule} kinds={kinds} count={planner.placements.filter((p) => p.rule.id === rule.id && !p.muted).length} />)}
        {montage.rules.length === 0 && <li className="text-fog">No rule yet. A rule lays one accent on all kept hits of the kinds you choose.</li>}
      </ol>
      {montage.accents.length > 0 && (
        <label className="flex items-center gap-2 text-fog">Another rule for
          <select className="field grow" value="" aria-label="Add a rule for an accent" onChange={(event) => event.currentTarget.value && spreadAccent(event.currentTarget.value)}>
            <option value="">choose an accent</option>
            {montage.accents.map((item) => <option key={item.id} value={item.id}>{item.name}</option>)}
          </select>
        </label>
      )}
      <h2 className="caption">On the chosen hit</h2>
      {here.length === 0 && <p className="text-fog">{chosen ? 'No rule lays an accent on this hit.' : 'Choose a hit in the sheet below.'}</p>}
      {here.map((placement) => <PlacementRow key={placement.key} placement={placement} />)}
      <div className="foot">
        {montage.rules.length === 0 && first
          ? <button className="key-main" data-main onClick={() => spreadAccent(first.id)}>Lay “{first.name}” on the kept hits</button>
          : <button className="key-main" data-main onClick={() => void go(`/montage/${montage.id}/export`)}>Export with {lying} accents</button>}
      </div>
    </>
  );
}

function RuleRow({ rule, kinds, count }: { rule: Rule; kinds: readonly HitKind[]; count: number }) {
  const { montage } = useDerived()!;
  const accent = montage.accents.find((a) => a.id === rule.accent);
  const change = (part: Partial<Rule>, group?: string): void => edit(changeRule(rule.id, part), group && `${group}-${rule.id}`);
  const offered = HIT_KINDS.filter((kind) => kinds.includes(kind) || rule.kinds.includes(kind));
  return (
    <li className={`flex flex-col gap-1.5 rounded-md bg-plank p-2.5 ${rule.on ? '' : 'opacity-60'}`} data-rule={rule.id}>
      <div className="flex items-center gap-2">
        <input type="checkbox" className="accent-lamp" checked={rule.on} aria-label={`Rule for ${accent?.name ?? 'an accent'}`} onChange={(event) => change({ on: event.currentTarget.checked })} />
        <select className="field min-w-0 grow" aria-label="Accent of the rule" value={rule.accent} onChange={(event) => change({ accent: event.currentTarget.value })}>
          {montage.accents.map((item) => <option key={item.id} value={item.id}>{item.name}</option>)}
        </select>
        <span className="mono text-[12px] text-fog">{count}×</span>
        <button className="key-quiet" aria-label="Remove the rule" onClick={() => edit(removeRule(rule.id))}><Trash2 size={14} /></button>
      </div>
      <div className="flex flex-wrap gap-1" role="group" aria-label="Kinds of hits">
        {offered.map((kind) => (
          <button key={kind} className="key py-0.5" aria-pressed={rule.kinds.includes(kind)} onClick={() => change({ kinds: rule.kinds.includes(kind) ? rule.kinds.filter((k) => k !== kind) : [...rule.kinds, kind] })}>
            <span aria-hidden className="size-2 rounded-full" style={{ background: KIND_COLOURS[kind] }} />{kindName(kind)}
          </button>
        ))}
        {offered.length === 0 && <span className="text-fog">No kept hits yet.</span>}
      </div>
      {([['minStrength', 'From strength'], ['follow', 'Follow strength']] as const).map(([name, label]) => (
        <label key={name} className="grid grid-cols-[96px_1fr_34px] items-center gap-2 text-[12px] text-fog">{label}
          <input className="range" type="range" min={0} max={1} step={0.01} value={rule[name]} onChange={(event) => change({ [name]: Number(event.currentTarget.value) }, name)} />
          <span className="mono text-right">{Math.round(rule[name] * 100)}</span>
        </label>
      ))}
      <label className="grid grid-cols-[96px_1fr] items-center gap-2 text-[12px] text-fog">Of a burst
        <select className="field py-0.5" aria-label="Which hits of a burst" value={rule.burst} onChange={(event) => change({ burst: event.currentTarget.value as Rule['burst'] })}>
          <option value="each">each hit</option><option value="first">the first</option><option value="last">the last</option>
        </select>
      </label>
    </li>
  );
}

/** What is set by hand on one placement. */
function PlacementRow({ placement }: { placement: Placement }) {
  const { montage, line } = useDerived()!;
  const set = montage.overrides[placement.key] ?? {};
  return (
    <div className="flex flex-col gap-1.5 rounded-md bg-plank p-2.5" data-placement={placement.key}>
      <div className="flex items-center gap-2">
        <span className="min-w-0 grow truncate font-medium">{placement.accent.accent.name}</span>
        <button className="mono text-[12px] text-fog hover:text-sail" onClick={() => choose(placement.occurrence)}>{timecode(placement.frame, line.rate)}</button>
      </div>
      <label className="grid grid-cols-[70px_1fr_40px] items-center gap-2 text-[12px] text-fog">Intensity
        <input className="range" type="range" min={0} max={2} step={0.05} value={placement.intensity} onChange={(event) => edit(override(placement.key, { intensity: Number(event.currentTarget.value) }), `intensity-${placement.key}`)} />
        <span className="mono text-right">{Math.round(placement.intensity * 100)} %</span>
      </label>
      <div className="flex items-center gap-1.5">
        <button className="key" aria-pressed={placement.muted} onClick={() => edit(override(placement.key, { mute: placement.muted ? undefined : true }))}>Mute</button>
        <button className="key" aria-label="Accent one frame earlier" onClick={() => edit(override(placement.key, { nudge: (set.nudge ?? 0) - 1 || undefined }))}>−1 f</button>
        <span className="mono text-[12px] text-fog">{set.nudge ?? 0}</span>
        <button className="key" aria-label="Accent one frame later" onClick={() => edit(override(placement.key, { nudge: (set.nudge ?? 0) + 1 || undefined }))}>+1 f</button>
        <button className="key" onClick={() => edit(override(placement.key, { seed: Math.floor(Math.random() * 2 ** 32) }))}>Another seed</button>
      </div>
      {Object.keys(set).length > 0 && <button className="key-quiet self-start" onClick={() => edit(override(placement.key, { mute: undefined, nudge: undefined, intensity: undefined, seed: undefined }))}>Back to the rule</button>}
    </div>
  );
}
