/** Rules: which accent lies on which hits. */
import { useNavigate } from 'react-router';
import { nanoid } from 'nanoid';
import { Trash2 } from 'lucide-react';
import { addBed, changeBed, changeRule, override, removeBed, removeRule } from '../../core/document/edits.ts';
import { HIT_KINDS, type Bed, type HitKind, type Rule } from '../../core/document/types.ts';
import { timecode } from '../../core/base/time.ts';
import { carriedKinds, type Placement } from '../../core/accents/placements.ts';
import { familyColour, KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { randomSeed } from '../parts/seed.ts';
import { NumberField } from '../parts/number-field.tsx';
import { choose, spreadAccent } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';
import { Safety } from './safety.tsx';

export function Spread() {
  const derived = useDerived()!;
  const go = useNavigate();
  const accent = useView((s) => s.accent);
  const chosen = useView((s) => s.chosen);
  const { montage, planner, shown } = derived;
  const first = montage.accents.find((a) => a.id === accent) ?? montage.accents[0];
  const kinds = carriedKinds(shown.map(({ hit }) => hit));
  const placed = planner.placements.filter((p) => !p.muted).length;
  const here = planner.placements.filter((p) => p.occurrence.key === chosen);
  return (
    <>
      <h2 className="caption">Rules</h2>
      <ol className="flex flex-col gap-2">
        {montage.rules.map((rule) => (
          <RuleRow
            key={rule.id}
            rule={rule}
            kinds={kinds}
            count={planner.placements.filter((p) => p.rule.id === rule.id && !p.muted).length}
          />
        ))}
        {montage.rules.length === 0 && (
          <li className="text-fog">No rule yet. A rule lays one accent on all kept hits of the kinds you choose.</li>
        )}
      </ol>
      {montage.accents.length > 0 && (
        <label className="flex items-center gap-2 text-fog">
          Another rule for
          <AccentPicker label="Add a rule for an accent" onPick={spreadAccent} />
        </label>
      )}
      <Beds />
      <Safety />
      <h2 className="caption">On the chosen hit</h2>
      {here.length === 0 && (
        <p className="text-fog">
          {chosen ? 'No rule lays an accent on this hit.' : 'Choose a hit in the sheet below.'}
        </p>
      )}
      {here.map((placement) => (
        <PlacementRow key={placement.key} placement={placement} />
      ))}
      <div className="foot">
        {montage.rules.length === 0 && first ? (
          <button className="key-main" data-main onClick={() => spreadAccent(first.id)}>
            Lay “{first.name}” on the kept hits
          </button>
        ) : (
          <button className="key-main" data-main onClick={() => void go(`/montage/${montage.id}/export`)}>
            Export with {placed} accents
          </button>
        )}
      </div>
    </>
  );
}

/** The montage's accents to choose from; without a chosen one it asks to choose. */
function AccentPicker({
  label,
  chosen = '',
  onPick,
}: {
  label: string;
  chosen?: string;
  onPick: (id: string) => void;
}) {
  const { montage } = useDerived()!;
  return (
    <select
      className="field min-w-0 grow"
      aria-label={label}
      value={chosen}
      onChange={(event) => event.currentTarget.value && onPick(event.currentTarget.value)}
    >
      {!chosen && <option value="">choose an accent</option>}
      {montage.accents.map((item) => (
        <option key={item.id} value={item.id}>
          {item.name}
        </option>
      ))}
    </select>
  );
}

function RuleRow({ rule, kinds, count }: { rule: Rule; kinds: readonly HitKind[]; count: number }) {
  const { montage } = useDerived()!;
  const accent = montage.accents.find((a) => a.id === rule.accent);
  const change = (part: Partial<Rule>, group?: string): void =>
    edit(changeRule(rule.id, part), group && `${group}-${rule.id}`);
  const offered = HIT_KINDS.filter((kind) => kinds.includes(kind) || rule.kinds.includes(kind));
  // Any family that was kept can be taken, those without a name of their own by how many they are.
  const families = montage.families.filter(({ id, state }) => state === 'kept' || rule.families.includes(id));
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
          aria-label={`Rule for ${accent?.name ?? 'an accent'}`}
          onChange={(event) => change({ on: event.currentTarget.checked })}
        />
        <AccentPicker label="Accent of the rule" chosen={rule.accent} onPick={(id) => change({ accent: id })} />
        <span className="mono text-[12px] text-fog">{count}×</span>
        <button className="key-quiet" aria-label="Remove the rule" onClick={() => edit(removeRule(rule.id))}>
          <Trash2 size={14} />
        </button>
      </div>
      <div className="flex flex-wrap gap-1" role="group" aria-label="Kinds and families of hits">
        {offered.map((kind) => (
          <button
            key={kind}
            className="key py-0.5"
            aria-pressed={rule.kinds.includes(kind)}
            onClick={() =>
              change({
                kinds: rule.kinds.includes(kind) ? rule.kinds.filter((k) => k !== kind) : [...rule.kinds, kind],
              })
            }
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
            onClick={() =>
              change({
                families: rule.families.includes(family.id)
                  ? rule.families.filter((id) => id !== family.id)
                  : [...rule.families, family.id],
              })
            }
          >
            <span
              aria-hidden
              className="size-2 rotate-45"
              style={{ background: familyColour({ named: family, kind: family.kind }) }}
            />
            {family.name || `${family.members.length} × ${kindName(family.kind)}`}
          </button>
        ))}
        {offered.length === 0 && <span className="text-fog">No kept hits yet.</span>}
      </div>
      {(
        [
          ['minStrength', 'From strength'],
          ['follow', 'Follow strength'],
        ] as const
      ).map(([name, label]) => (
        <label key={name} className="grid grid-cols-[96px_1fr_34px] items-center gap-2 text-[12px] text-fog">
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
      ))}
      <label className="grid grid-cols-[96px_1fr] items-center gap-2 text-[12px] text-fog">
        Of a burst
        <select
          className="field py-0.5"
          aria-label="Which hits of a burst"
          value={rule.burst}
          onChange={(event) => change({ burst: event.currentTarget.value as Rule['burst'] })}
        >
          <option value="each">each hit</option>
          <option value="first">the first</option>
          <option value="last">the last</option>
        </select>
      </label>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-[12px] text-fog">
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="accent-lamp"
            checked={rule.mirror}
            onChange={(event) => change({ mirror: event.currentTarget.checked })}
          />
          mirror every second
        </label>
        <label className="flex items-center gap-1">
          spread
          <input
            className="field mono w-14 py-0"
            type="number"
            min={0}
            max={100}
            step={5}
            aria-label="Random spread of intensity in percent"
            value={Math.round(rule.spread * 100)}
            onChange={(event) =>
              change({ spread: Math.min(1, Math.max(0, Number(event.currentTarget.value) / 100)) }, 'spread')
            }
          />
          %
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
            <select
              className="field py-0"
              aria-label="After the last hit of a run"
              value={rule.run.after}
              onChange={(event) =>
                change({ run: { ...rule.run!, after: event.currentTarget.value as 'plain' | 'stay' } })
              }
            >
              <option value="plain">then nothing</option>
              <option value="stay">then stays</option>
            </select>
          </>
        )}
      </div>
    </li>
  );
}

/** Accents on stretches instead of hits: gradings, a constant shake, a look that changes at a hit. */
function Beds() {
  const { montage, line } = useDerived()!;
  const chosen = useView((s) => s.chosen);
  const carried = montage.hits.filter((h) => h.state === 'kept' || h.state === 'made');
  const nameOf = (id: string): string => {
    const hit = montage.hits.find((h) => h.id === id);
    return hit ? `${kindName(hit.kind)} at ${hit.t.toFixed(2)} s` : 'a hit that is gone';
  };
  const add = (accent: string): void =>
    edit(
      addBed({
        id: nanoid(8),
        accent,
        on: true,
        stretch: { kind: 'all' },
        above: false,
        intensity: 1,
        seed: randomSeed(),
      }),
    );
  const setKind = (bed: Bed, kind: string): void => {
    const at = carried.findIndex((h) => chosen?.startsWith(`${h.id}@`));
    const [from, to] = [carried[Math.max(0, at)], carried[Math.max(0, at) + 1] ?? carried.at(-1)];
    if (kind === 'all') edit(changeBed(bed.id, { stretch: { kind: 'all' } }));
    else if (kind === 'clip' && line.spans[0])
      edit(changeBed(bed.id, { stretch: { kind: 'clip', clip: line.spans[0].clip.id } }));
    else if (kind === 'hits' && from && to)
      edit(changeBed(bed.id, { stretch: { kind: 'hits', from: from.id, to: to.id } }));
  };
  return (
    <>
      <h2 className="caption">Beds</h2>
      <ol className="flex flex-col gap-2" aria-label="Beds">
        {montage.beds.map((bed) => {
          const { stretch } = bed;
          return (
            <li
              key={bed.id}
              className={`flex flex-col gap-1.5 rounded-md bg-plank p-2.5 ${bed.on ? '' : 'opacity-60'}`}
              data-bed={bed.id}
            >
              <div className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="accent-lamp"
                  checked={bed.on}
                  aria-label="Bed is on"
                  onChange={(event) => edit(changeBed(bed.id, { on: event.currentTarget.checked }))}
                />
                <AccentPicker
                  label="Accent of the bed"
                  chosen={bed.accent}
                  onPick={(id) => edit(changeBed(bed.id, { accent: id }))}
                />
                <button className="key-quiet" aria-label="Remove the bed" onClick={() => edit(removeBed(bed.id))}>
                  <Trash2 size={14} />
                </button>
              </div>
              <div className="flex flex-wrap items-center gap-1.5 text-[12px] text-fog">
                <select
                  className="field py-0"
                  aria-label="Where the bed lies"
                  value={stretch.kind}
                  onChange={(event) => setKind(bed, event.currentTarget.value)}
                >
                  <option value="all">whole montage</option>
                  <option value="clip">one clip</option>
                  <option value="hits" disabled={carried.length < 2}>
                    hit to hit
                  </option>
                </select>
                {stretch.kind === 'clip' && (
                  <select
                    className="field py-0"
                    aria-label="Clip of the bed"
                    value={stretch.clip}
                    onChange={(event) =>
                      edit(changeBed(bed.id, { stretch: { kind: 'clip', clip: event.currentTarget.value } }))
                    }
                  >
                    {line.spans.map((span) => (
                      <option key={span.clip.id} value={span.clip.id}>
                        clip {span.index + 1}
                      </option>
                    ))}
                  </select>
                )}
                {stretch.kind === 'hits' &&
                  (['from', 'to'] as const).map((end) => (
                    <select
                      key={end}
                      className="field max-w-36 py-0"
                      aria-label={end === 'from' ? 'From hit' : 'To hit'}
                      value={stretch[end]}
                      onChange={(event) =>
                        edit(changeBed(bed.id, { stretch: { ...stretch, [end]: event.currentTarget.value } }))
                      }
                    >
                      {!carried.some((h) => h.id === stretch[end]) && (
                        <option value={stretch[end]}>{nameOf(stretch[end])}</option>
                      )}
                      {carried.map((h) => (
                        <option key={h.id} value={h.id}>
                          {nameOf(h.id)}
                        </option>
                      ))}
                    </select>
                  ))}
                <label className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    className="accent-lamp"
                    checked={bed.above}
                    onChange={(event) => edit(changeBed(bed.id, { above: event.currentTarget.checked }))}
                  />
                  over the accents
                </label>
              </div>
              <label className="grid grid-cols-[96px_1fr_40px] items-center gap-2 text-[12px] text-fog">
                Intensity
                <input
                  className="range"
                  type="range"
                  min={0}
                  max={2}
                  step={0.05}
                  aria-label="Intensity of the bed"
                  value={bed.intensity}
                  onChange={(event) =>
                    edit(changeBed(bed.id, { intensity: Number(event.currentTarget.value) }), `bed-${bed.id}`)
                  }
                />
                <span className="mono text-right">{Math.round(bed.intensity * 100)} %</span>
              </label>
            </li>
          );
        })}
      </ol>
      {montage.accents.length > 0 && (
        <label className="flex items-center gap-2 text-fog">
          A bed of
          <AccentPicker label="Add a bed of an accent" onPick={add} />
        </label>
      )}
    </>
  );
}

/** What is set by hand on one placement. */
function PlacementRow({ placement }: { placement: Placement }) {
  const { montage, line, planner } = useDerived()!;
  const set = montage.overrides[placement.key] ?? {};
  const before = planner.placements.filter((p) => p.rule.id === placement.rule.id && p.frame < placement.frame).at(-1);
  return (
    <div className="flex flex-col gap-1.5 rounded-md bg-plank p-2.5" data-placement={placement.key}>
      <div className="flex items-center gap-2">
        <span className="min-w-0 grow truncate font-medium">{placement.accent.accent.name}</span>
        <button className="mono text-[12px] text-fog hover:text-sail" onClick={() => choose(placement.occurrence)}>
          {timecode(placement.frame, line.rate)}
        </button>
      </div>
      <label className="grid grid-cols-[70px_1fr_40px] items-center gap-2 text-[12px] text-fog">
        Intensity
        <input
          className="range"
          type="range"
          min={0}
          max={2}
          step={0.05}
          value={placement.intensity}
          onChange={(event) =>
            edit(
              override(placement.key, { intensity: Number(event.currentTarget.value) }),
              `intensity-${placement.key}`,
            )
          }
        />
        <span className="mono text-right">{Math.round(placement.intensity * 100)} %</span>
      </label>
      <div className="flex flex-wrap items-center gap-1.5">
        <button
          className="key"
          aria-pressed={placement.muted}
          onClick={() => edit(override(placement.key, { mute: placement.muted ? undefined : true }))}
        >
          Mute
        </button>
        <button
          className="key"
          aria-label="Accent one frame earlier"
          onClick={() => edit(override(placement.key, { nudge: (set.nudge ?? 0) - 1 || undefined }))}
        >
          −1 f
        </button>
        <span className="mono text-[12px] text-fog">{set.nudge ?? 0}</span>
        <button
          className="key"
          aria-label="Accent one frame later"
          onClick={() => edit(override(placement.key, { nudge: (set.nudge ?? 0) + 1 || undefined }))}
        >
          +1 f
        </button>
        <button className="key" onClick={() => edit(override(placement.key, { seed: randomSeed() }))}>
          Another seed
        </button>
        {before && (
          <button
            className="key"
            title="The random values of the one before"
            onClick={() => edit(override(placement.key, { seed: before.seed }))}
          >
            Same again
          </button>
        )}
      </div>
      {Object.keys(set).length > 0 && (
        <button
          className="key-quiet self-start"
          onClick={() =>
            edit(override(placement.key, { mute: undefined, nudge: undefined, intensity: undefined, seed: undefined }))
          }
        >
          Back to the rule
        </button>
      )}
    </div>
  );
}
