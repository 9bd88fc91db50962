/** One accent: its effects in order, its seed and reach. The values over frames are in the ladder below. */
import { useNavigate } from 'react-router';
import { nanoid } from 'nanoid';
import { ArrowDown, ArrowUp, Copy, Dices, Eye, EyeOff, Plus, Trash2 } from 'lucide-react';
import { addAccent, addEffect, changeAccent, changeEffect, moveEffect, removeAccent, removeEffect } from '../../core/montage/edits.ts';
import type { Accent, EffectUse } from '../../core/montage/types.ts';
import { rateLabel } from '../../core/units/time.ts';
import { EFFECTS, EFFECT_LIST } from '../../effects/index.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { useDerived } from '../stores/derived.ts';
import { spreadAccent } from '../stores/actions.ts';
import { edit } from '../stores/montage.ts';
import { useSession } from '../stores/session.ts';
import { useChosenAccent, useShapingFrame } from './audition.ts';

const randomSeed = (): number => Math.floor(Math.random() * 2 ** 32);

export function Shape() {
  const derived = useDerived()!;
  const accent = useChosenAccent();
  const frame = useShapingFrame();
  const go = useNavigate();
  const { montage } = derived;
  const pick = (id: string): void => useSession.setState({ accent: id });
  const addNew = (from?: Accent): void => {
    const made: Accent = from
      ? { ...from, id: nanoid(8), name: `${from.name} copy` }
      : { id: nanoid(8), name: 'New accent', rate: derived.line.rate, lead: 2, tail: 10, seed: randomSeed(), effects: [] };
    edit(addAccent(made));
    pick(made.id);
  };
  const spread = (): void => {
    if (accent && !montage.rules.some((rule) => rule.accent === accent.id)) spreadAccent(accent.id);
    void go(`/montage/${montage.id}/spread`);
  };
  return (
    <>
      <h2 className="caption">Accents</h2>
      <ul className="grid grid-cols-4 gap-1.5">
        {montage.accents.map((item) => (
          <li key={item.id}>
            <button className={`block w-full overflow-hidden rounded-md border-2 text-left ${item.id === accent?.id ? 'border-tide' : 'border-rope'}`} aria-pressed={item.id === accent?.id} onClick={() => pick(item.id)}>
              {frame === null ? <span className="block aspect-video bg-black" /> : <AccentPicture accent={item} frame={frame} />}
              <span className="block truncate px-1.5 py-0.5 text-[12px]">{item.name}</span>
            </button>
          </li>
        ))}
        <li><button className="flex h-full min-h-14 w-full flex-col items-center justify-center gap-1 rounded-md border-2 border-dashed border-rope text-[12px] text-fog hover:text-sail" onClick={() => addNew()}><Plus size={16} />New</button></li>
      </ul>

      {accent && (
        <>
          <div className="flex items-center gap-1">
            <input className="field min-w-0 grow" aria-label="Name of the accent" value={accent.name} maxLength={200} onChange={(event) => {
              const name = event.currentTarget.value;
              edit(changeAccent(accent.id, (a) => ({ ...a, name })), `accent-name-${accent.id}`);
            }} />
            <button className="key-quiet" aria-label="Duplicate the accent" title="Duplicate" onClick={() => addNew(accent)}><Copy size={15} /></button>
            <button className="key-quiet" aria-label="Delete the accent" title="Delete" onClick={() => edit(removeAccent(accent.id))}><Trash2 size={15} /></button>
          </div>
          <div className="flex items-center gap-3 text-[12px] text-fog">
            {(['lead', 'tail'] as const).map((end) => (
              <label key={end} className="flex items-center gap-1">{end}
                <input className="field mono w-14 py-0" type="number" min={0} max={120} value={accent[end]} onChange={(event) => {
                  const value = Math.min(120, Math.max(0, Math.round(Number(event.currentTarget.value)) || 0));
                  edit(changeAccent(accent.id, (a) => ({ ...a, [end]: value })), `accent-${end}-${accent.id}`);
                }} />
              </label>
            ))}
            <span className="whitespace-nowrap">at {rateLabel(accent.rate)}/s</span>
            <span className="grow" />
            <button className="key-quiet" title={`Seed ${accent.seed}`} onClick={() => edit(changeAccent(accent.id, (a) => ({ ...a, seed: randomSeed() })))}><Dices size={15} />Another</button>
          </div>
          <ol className="flex flex-col gap-2">
            {accent.effects.map((use, i) => <EffectRow key={use.id} accent={accent} use={use} at={i} />)}
            {accent.effects.length === 0 && <li className="text-fog">No effects yet: add one below.</li>}
          </ol>
          <div className="flex flex-wrap gap-1.5" role="group" aria-label="Add an effect">
            {EFFECT_LIST.map((effect) => (
              <button key={effect.id} className="key" title={effect.doc} onClick={() => edit(addEffect(accent.id, newUse(accent, effect.id)))}><Plus size={13} />{effect.name}</button>
            ))}
          </div>
        </>
      )}
      <div className="foot">
        <button className="key-main" data-main disabled={!accent || accent.effects.length === 0} onClick={spread}>Spread this accent</button>
      </div>
    </>
  );
}

/** A new effect does something at once: its shelf values on the hit, the identity at both ends. */
function newUse(accent: Accent, id: string): EffectUse {
  const spec = EFFECTS.get(id)!;
  const params = Object.entries(spec.thumbnail).map(([name, value]) => {
    const identity = spec.params[name]?.identity;
    if (identity === undefined) return [name, value] as const;
    const keys = [
      ...(accent.lead > 0 ? [{ at: -accent.lead, value: identity, ease: 'linear' as const }] : []),
      { at: 0, value, ease: 'fast out' as const },
      ...(accent.tail > 0 ? [{ at: accent.tail, value: identity, ease: 'linear' as const }] : []),
    ];
    return [name, keys] as const;
  });
  return { id: nanoid(8), effect: id, version: spec.version, on: true, params: Object.fromEntries(params) };
}

function AccentPicture({ accent, frame }: { accent: Accent; frame: number }) {
  const at = accent.tail > 1 ? frame + 1 : frame;
  const audition = useAuditionOf(accent, frame);
  return <FramePicture frame={at} width={192} height={108} plain={false} audition={audition} label={`${accent.name} on the hit`} />;
}

const auditions = new WeakMap<Accent, Map<number, { accent: Accent; frame: number; intensity: number }>>();
/** One value per accent and frame, so that pictures are drawn once. */
function useAuditionOf(accent: Accent, frame: number) {
  let byFrame = auditions.get(accent);
  if (!byFrame) auditions.set(accent, (byFrame = new Map()));
  let audition = byFrame.get(frame);
  if (!audition) byFrame.set(frame, (audition = { accent, frame, intensity: 1 }));
  return audition;
}

function EffectRow({ accent, use, at }: { accent: Accent; use: EffectUse; at: number }) {
  const spec = EFFECTS.get(use.effect);
  if (!spec) {
    return (
      <li className="flex items-center gap-2 rounded-md border border-ember px-2.5 py-1.5">
        <span className="grow">Unknown effect “{use.effect}”: kept, but not drawn</span>
        <button className="key-quiet" aria-label={`Remove ${use.effect}`} onClick={() => edit(removeEffect(accent.id, use.id))}><Trash2 size={14} /></button>
      </li>
    );
  }
  // Choices and steady values are set here; what is shaped over frames is in the ladder.
  const choices = Object.entries(spec.params).filter(([, p]) => p.choices);
  return (
    <li className={`rounded-md bg-plank px-2.5 py-1.5 ${use.on ? '' : 'opacity-50'}`}>
      <div className="flex items-center gap-1">
        <span className="grow font-medium" title={spec.doc}>{at + 1}. {spec.name}</span>
        <button className="key-quiet" aria-label={use.on ? `Switch ${spec.name} off` : `Switch ${spec.name} on`} onClick={() => edit(changeEffect(accent.id, use.id, (e) => ({ ...e, on: !e.on })))}>{use.on ? <Eye size={14} /> : <EyeOff size={14} />}</button>
        <button className="key-quiet" aria-label={`${spec.name} earlier`} disabled={at === 0} onClick={() => edit(moveEffect(accent.id, use.id, -1))}><ArrowUp size={14} /></button>
        <button className="key-quiet" aria-label={`${spec.name} later`} disabled={at === accent.effects.length - 1} onClick={() => edit(moveEffect(accent.id, use.id, 1))}><ArrowDown size={14} /></button>
        <button className="key-quiet" aria-label={`Remove ${spec.name}`} onClick={() => edit(removeEffect(accent.id, use.id))}><Trash2 size={14} /></button>
      </div>
      {choices.length > 0 && (
        <div className="mt-1 flex gap-2">
          {choices.map(([name, param]) => (
            <label key={name} className="flex items-center gap-1 text-[12px] text-fog" title={param.doc}>{param.label}
              <select className="field py-0" value={typeof use.params[name] === 'number' ? use.params[name] : param.default}
                onChange={(event) => {
                  const value = Number(event.currentTarget.value);
                  edit(changeEffect(accent.id, use.id, (e) => ({ ...e, params: { ...e.params, [name]: value } })));
                }}>
                {param.choices!.map((choice, i) => <option key={choice} value={i}>{choice}</option>)}
              </select>
            </label>
          ))}
        </div>
      )}
    </li>
  );
}
