/** Beds: accents on stretches of the montage instead of hits. */
import { useState } from 'react';
import { nanoid } from 'nanoid';
import { Trash2 } from 'lucide-react';
import { addBed, changeBed, removeBed } from '../../core/document/edits.ts';
import { envelopeOf } from '../../core/document/params.ts';
import { everyUse } from '../../core/document/uses.ts';
import type { Accent, Bed, HitKind } from '../../core/document/types.ts';
import { carriedKinds } from '../../core/accents/placements.ts';
import { kindName } from '../parts/kinds.ts';
import { PinKeys } from '../parts/pin.tsx';
import { randomSeed } from '../parts/seed.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';
import { Sections } from './sections.tsx';
import { AccentPicker } from './accent-picker.tsx';

type Lasts = NonNullable<Bed['lasts']>;
const LASTING: readonly (readonly [Lasts, string])[] = [
  ['hold', 'holds what it is on the hit'],
  ['repeat', 'begins again and again'],
  ['once', 'plays once, then stays as it ends'],
];

/** True where some of its values change over its frames. */
const isShaped = ({ effects }: Accent): boolean =>
  everyUse(effects).some(({ params }) =>
    Object.values(params).some((param) => {
      const envelope = envelopeOf(param);
      return typeof envelope !== 'number' && new Set(envelope.map(({ value }) => value)).size > 1;
    }),
  );

/** Accents on stretches instead of hits: gradings, a constant shake, a look that changes at a hit. */
export function Beds() {
  const { montage, line } = useDerived()!;
  const chosen = useView((s) => s.chosen);
  const carried = montage.hits.filter((h) => h.state === 'kept' || h.state === 'made');
  const kinds = carriedKinds(carried);
  const nameOf = (id: string): string => {
    const hit = montage.hits.find((h) => h.id === id);
    return hit ? `${kindName(hit.kind)} at ${hit.t.toFixed(2)} s` : 'a hit that is gone';
  };
  /** The accent that is about to become a bed, while it is asked what it does there. */
  const [asked, setAsked] = useState<string | null>(null);
  const add = (accent: string, lasts?: Lasts): void => {
    setAsked(null);
    edit(
      addBed({
        id: nanoid(8),
        accent,
        on: true,
        stretch: { kind: 'all' },
        ...(lasts && { lasts }),
        above: false,
        intensity: 1,
        seed: randomSeed(),
      }),
    );
  };
  const addAsking = (id: string): void => {
    const accent = montage.accents.find((a) => a.id === id);
    // What is the same from beginning to end needs no question.
    if (accent && isShaped(accent)) setAsked(id);
    else add(id);
  };
  const setKind = (bed: Bed, kind: string): void => {
    const at = carried.findIndex((h) => chosen?.startsWith(`${h.id}@`));
    const [from, to] = [carried[Math.max(0, at)], carried[Math.max(0, at) + 1] ?? carried.at(-1)];
    if (kind === 'all') edit(changeBed(bed.id, { stretch: { kind: 'all' } }));
    else if (kind === 'clip' && line.spans[0])
      edit(changeBed(bed.id, { stretch: { kind: 'clip', clip: line.spans[0].clip.id } }));
    else if (kind === 'hits' && from && to)
      edit(changeBed(bed.id, { stretch: { kind: 'hits', from: from.id, to: to.id } }));
    else if (kind === 'sections') edit(changeBed(bed.id, { stretch: { kind: 'sections', sections: [] } }));
    else if (kind === 'clips') edit(changeBed(bed.id, { stretch: { kind: 'clips', kinds: [] } }));
    else if (kind === 'between' && kinds[0])
      edit(changeBed(bed.id, { stretch: { kind: 'between', from: kinds[0], to: kinds.at(-1)! } }));
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
                  <option value="clips">each clip that holds</option>
                  <option value="sections">each section</option>
                  <option value="between" disabled={!kinds.length}>
                    from each … to the next
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
                {stretch.kind === 'clips' && (
                  <KindSelect
                    label="Kind of hit that the clips hold"
                    kinds={kinds}
                    any="any kept hit"
                    value={stretch.kinds[0] ?? ''}
                    onKind={(kind) =>
                      edit(changeBed(bed.id, { stretch: { kind: 'clips', kinds: kind ? [kind] : [] } }))
                    }
                  />
                )}
                {stretch.kind === 'between' &&
                  (['from', 'to'] as const).map((end) => (
                    <KindSelect
                      key={end}
                      label={end === 'from' ? 'From each hit of the kind' : 'To the next hit of the kind'}
                      kinds={kinds}
                      value={stretch[end]}
                      onKind={(kind) => kind && edit(changeBed(bed.id, { stretch: { ...stretch, [end]: kind } }))}
                    />
                  ))}
                {stretch.kind === 'sections' && (
                  <Sections
                    chosen={stretch.sections}
                    onChosen={(sections) => edit(changeBed(bed.id, { stretch: { kind: 'sections', sections } }))}
                  />
                )}
                <select
                  className="field py-0"
                  aria-label="What the accent does through the bed"
                  value={bed.lasts ?? 'once'}
                  onChange={(event) => edit(changeBed(bed.id, { lasts: event.currentTarget.value as Lasts }))}
                >
                  {LASTING.map(([lasts, text]) => (
                    <option key={lasts} value={lasts}>
                      {text}
                    </option>
                  ))}
                </select>
                <label className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    className="accent-lamp"
                    checked={bed.above}
                    onChange={(event) => edit(changeBed(bed.id, { above: event.currentTarget.checked }))}
                  />
                  over the accents
                </label>
                <PinKeys pinned={{ list: 'beds', id: bed.id }} pin={bed.pin} name="the bed" />
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
          <AccentPicker label="Add a bed of an accent" onPick={addAsking} />
        </label>
      )}
      {asked && (
        <div className="flex flex-col gap-1.5 rounded-md bg-plank p-2.5" role="group" aria-label="What the bed does">
          <p>“{montage.accents.find((a) => a.id === asked)?.name}” is shaped over its frames. Through the bed it…</p>
          {LASTING.map(([lasts, text]) => (
            <button key={lasts} className="key justify-start" onClick={() => add(asked, lasts)}>
              {text}
            </button>
          ))}
          <button className="key-quiet self-start" onClick={() => setAsked(null)}>
            Cancel
          </button>
        </div>
      )}
    </>
  );
}

function KindSelect({
  label,
  kinds,
  value,
  any,
  onKind,
}: {
  label: string;
  kinds: readonly HitKind[];
  value: HitKind | '';
  any?: string;
  onKind: (kind: HitKind | null) => void;
}) {
  return (
    <select
      className="field py-0"
      aria-label={label}
      value={value}
      onChange={(event) => onKind((event.currentTarget.value || null) as HitKind | null)}
    >
      {any && <option value="">{any}</option>}
      {[...new Set([...kinds, ...(value ? [value] : [])])].map((kind) => (
        <option key={kind} value={kind}>
          {kindName(kind)}
        </option>
      ))}
    </select>
  );
}
