/** From kept hits to a row of clips, by rules whose result is shown while they are changed. */
import { useMemo, useState } from 'react';
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { nanoid } from 'nanoid';
import { labelsOf } from '../../core/document/families.ts';
import { HIT_KINDS, type Hit } from '../../core/document/types.ts';
import { gather, setGathered, type Around, type Gathering } from '../../core/timeline/gather.ts';
import { carries } from '../../core/document/hits.ts';
import { counted } from '../parts/counted.ts';
import { SourcePicture } from '../parts/frame-picture.tsx';
import { hitLook, kindName } from '../parts/kinds.ts';
import { NumberField } from '../parts/number-field.tsx';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { musicTimes } from '../stores/row.ts';
import { notice } from '../stores/view.ts';

/** Clips of which a picture is shown. */
const SHOWN = 60;

export function GatherDialog({ onClose }: { onClose: () => void }) {
  const derived = useDerived()!;
  const { montage } = derived;
  const { rate } = derived.line;
  const [left, setLeft] = useState<readonly string[]>([]);
  const [order, setOrder] = useState<Gathering['order']>('time');
  const [before, setBefore] = useState(1);
  const [after, setAfter] = useState(1.5);
  const [most, setMost] = useState(0);
  const [longest, setLongest] = useState(0);
  const [onBeats, setOnBeats] = useState(false);
  const [keep, setKeep] = useState(false);
  /** Bars that each clip lasts; 0: as long as its surroundings. */
  const [barCount, setBarCount] = useState(0);
  /** Hits a minute in each part of the music; 0: as many as come. */
  const [rates, setRates] = useState<readonly number[]>([]);
  /** Of kinds and families that have their own, by label. */
  const [own, setOwn] = useState<Readonly<Record<string, Around>>>({});
  const [apart, setApart] = useState(false);
  /** Hits taken before all others, and hits left out, by hand. */
  const [first, setFirst] = useState<readonly string[]>([]);
  const [dropped, setDropped] = useState<readonly string[]>([]);
  const kept = useMemo(
    () =>
      montage.hits.filter((hit) => carries(hit) && hit.kind !== 'join' && hit.kind !== 'beat' && hit.kind !== 'drop'),
    [montage.hits],
  );
  const { beats, bars, parts } = useMemo(() => musicTimes(derived), [derived]);
  const labels = useMemo(() => {
    const counts = new Map<string, number>();
    for (const hit of kept)
      for (const label of labelsOf(hit, montage.families)) counts.set(label, (counts.get(label) ?? 0) + 1);
    return [...counts];
  }, [kept, montage.families]);
  const wanted = useMemo(
    () =>
      kept.filter(
        (hit) => !dropped.includes(hit.id) && labelsOf(hit, montage.families).some((label) => !left.includes(label)),
      ),
    [kept, left, dropped, montage.families],
  );
  const around = useMemo(() => {
    const map = new Map<string, Around>();
    if (apart)
      for (const hit of wanted) {
        const label = labelsOf(hit, montage.families).find((one) => own[one]);
        if (label) map.set(hit.id, own[label]!);
      }
    return map;
  }, [apart, own, wanted, montage.families]);
  const result = useMemo(
    () =>
      gather(montage.sources, wanted, {
        before,
        after,
        order,
        most: most || null,
        longest: longest || null,
        beats: onBeats ? beats : null,
        rate,
        around,
        bars: barCount ? { begins: bars, count: barCount } : undefined,
        sections: parts.map((from, i) => ({ from, to: parts[i + 1] ?? Infinity, perMinute: rates[i] ?? 0 })),
        first: new Set(first),
      }),
    [
      rate,
      montage.sources,
      wanted,
      before,
      after,
      order,
      most,
      longest,
      onBeats,
      beats,
      around,
      barCount,
      bars,
      parts,
      rates,
      first,
    ],
  );
  const byId = useMemo(() => new Map(kept.map((hit) => [hit.id, hit])), [kept]);
  const out = [...result.left, ...dropped].flatMap((id) => byId.get(id) ?? []);
  const nameOf = (label: string): string =>
    montage.families.find(({ id }) => id === label)?.name ?? kindName(HIT_KINDS.find((kind) => kind === label)!);
  const number = (label: string, value: number, set: (value: number) => void, step: number, max: number) => (
    <label className="flex items-center justify-between gap-2 text-fog">
      {label}
      <NumberField
        label={label}
        className="field mono w-16 px-1 py-0.5"
        value={value}
        min={0}
        max={max}
        step={step}
        onLeave
        onValue={set}
      />
    </label>
  );
  return (
    <Dialog open onClose={onClose} className="relative z-40">
      <div aria-hidden className="fixed inset-0 bg-night/70" />
      <div className="fixed inset-0 flex items-center justify-center p-6">
        <DialogPanel className="flex max-h-full w-[760px] flex-col gap-3 rounded-xl border border-rope bg-deck p-5">
          <DialogTitle className="text-[16px] font-semibold">Gather a row from {kept.length} kept hits</DialogTitle>
          {kept.length === 0 && (
            <p className="text-fog">Keep some hits at “Check” first: each becomes a clip with what lies around it.</p>
          )}
          <div className="flex flex-wrap gap-1" role="group" aria-label="Hits that are gathered">
            {labels.map(([label, count]) => {
              const on = !left.includes(label);
              return (
                <button
                  key={label}
                  className={`key px-1.5 py-px text-[12px] ${on ? '' : 'text-fog line-through'}`}
                  aria-pressed={on}
                  onClick={() => setLeft(on ? [...left, label] : left.filter((one) => one !== label))}
                >
                  {nameOf(label)} {count}
                </button>
              );
            })}
          </div>
          <div className="grid grid-cols-3 gap-x-6 gap-y-2">
            {number('Seconds before', before, setBefore, 0.1, 600)}
            {number('At most clips (0: all)', most, setMost, 1, 5000)}
            <label className="flex items-center justify-between gap-2 text-fog">
              Order
              <select
                className="field py-0.5"
                aria-label="Order of the clips"
                value={order}
                onChange={(event) => setOrder(event.currentTarget.value as Gathering['order'])}
              >
                <option value="time">as recorded</option>
                <option value="strength">strongest first</option>
              </select>
            </label>
            {number('Seconds after', after, setAfter, 0.1, 600)}
            {number('At most seconds (0: all)', longest, setLongest, 1, 86_400)}
            <label className="flex items-center gap-2 text-fog">
              <input
                type="checkbox"
                className="accent-lamp"
                checked={onBeats}
                disabled={!beats.length}
                onChange={(event) => setOnBeats(event.currentTarget.checked)}
              />
              {beats.length ? 'hits on beats of the music' : 'no beats of music found'}
            </label>
          </div>
          <div className="flex flex-wrap items-center gap-x-6 gap-y-1 text-[12px] text-fog">
            <label className="flex items-center gap-2">
              Each clip lasts
              <select
                className="field py-0"
                aria-label="Length of each clip"
                value={barCount}
                disabled={!bars.length}
                title={bars.length ? undefined : 'No bars of music were found'}
                onChange={(event) => setBarCount(Number(event.currentTarget.value))}
              >
                <option value={0}>as said above</option>
                <option value={1}>one bar</option>
                <option value={2}>two bars</option>
                <option value={4}>four bars</option>
              </select>
            </label>
            {parts.length > 1 && !barCount && (
              <span className="flex flex-wrap items-center gap-2" title="0: as many as come">
                hits a minute
                {parts.map((from, i) => (
                  <label key={from} className="flex items-center gap-1">
                    {i === 0 ? 'before the drop' : parts.length > 2 ? `after drop ${i}` : 'after it'}
                    <NumberField
                      label={`Hits a minute in part ${i + 1} of the music`}
                      value={rates[i] ?? 0}
                      min={0}
                      max={600}
                      onLeave
                      onValue={(value) => setRates(parts.map((_, k) => (k === i ? value : (rates[k] ?? 0))))}
                    />
                  </label>
                ))}
              </span>
            )}
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-lamp"
                checked={apart}
                onChange={(event) => setApart(event.currentTarget.checked)}
              />
              other seconds for each kind
            </label>
          </div>
          {apart && (
            <div className="flex flex-wrap gap-x-4 gap-y-1 text-[12px] text-fog">
              {labels.map(([label]) => (
                <span key={label} className="flex items-center gap-1">
                  {nameOf(label)}
                  {(['before', 'after'] as const).map((side) => (
                    <NumberField
                      key={side}
                      label={`Seconds ${side} each ${nameOf(label)}`}
                      value={own[label]?.[side] ?? { before, after }[side]}
                      min={0}
                      max={600}
                      step={0.1}
                      onLeave
                      onValue={(value) =>
                        setOwn({ ...own, [label]: { ...(own[label] ?? { before, after }), [side]: value } })
                      }
                    />
                  ))}
                </span>
              ))}
            </div>
          )}
          <p className="text-fog" data-gathered={result.clips.length} data-left={result.left.length}>
            <b className="text-sail">{result.clips.length}</b> clips,{' '}
            <b className="text-sail">{result.length.toFixed(1)} s</b>
            {result.left.length > 0 && `, ${counted(result.left.length, 'hit')} left out`}
            {result.merged > 0 &&
              `; ${counted(result.merged, 'hit')} ${result.merged === 1 ? 'lies' : 'lie'} in the clip of another hit`}
            {result.crowded > 0 &&
              `; ${result.crowded} of those left out ${result.crowded === 1 ? 'is' : 'are'} too near others for a clip of this length`}
          </p>
          <ol
            className="grid min-h-24 grow grid-cols-6 content-start gap-1.5 overflow-y-auto"
            aria-label="Clips of the row"
          >
            {result.clips.slice(0, SHOWN).map((clip) => {
              const hit = byId.get(clip.hits[0]!);
              if (!hit) return null;
              return (
                <li key={hit.id} className="text-[11px] text-fog">
                  <HitPicture
                    hit={hit}
                    action="Leave it out"
                    onClick={() => {
                      setDropped([...dropped, ...clip.hits]);
                      setFirst(first.filter((id) => !clip.hits.includes(id)));
                    }}
                  />
                  {clip.hits.length > 1 && ` +${clip.hits.length - 1}`} · {(clip.out - clip.in).toFixed(1)} s
                </li>
              );
            })}
          </ol>
          {out.length > 0 && (
            <div className="shrink-0">
              <h3 className="caption">Left out: press one to swap it in</h3>
              <ol className="mt-1 flex gap-1.5 overflow-x-auto" aria-label="Hits that are left out">
                {out.slice(0, SHOWN).map((hit) => (
                  <li key={hit.id} className="w-20 shrink-0 text-[11px] text-fog">
                    <HitPicture
                      hit={hit}
                      action="Swap it in"
                      onClick={() => {
                        setDropped(dropped.filter((id) => id !== hit.id));
                        setFirst([...first, hit.id]);
                      }}
                    />
                  </li>
                ))}
              </ol>
            </div>
          )}
          <div className="flex items-center gap-3">
            <label className="mr-auto flex items-center gap-2 text-fog">
              <input
                type="checkbox"
                className="accent-lamp"
                checked={keep}
                onChange={(event) => setKeep(event.currentTarget.checked)}
              />
              keep the other clips of the row at its end
            </label>
            <button className="key" onClick={onClose}>
              Leave it
            </button>
            <button
              className="key-main w-auto px-5"
              disabled={!result.clips.length}
              onClick={() => {
                edit(setGathered(result.clips, () => nanoid(8), keep ? 'keep' : 'drop'));
                notice(`${result.clips.length} clips were gathered. Undo brings the row back as it was.`);
                onClose();
              }}
            >
              Make the row
            </button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}

/** The frame of a hit, wherever it lies, as a button. */
function HitPicture({ hit, action, onClick }: { hit: Hit; action: string; onClick: () => void }) {
  const { montage, media } = useDerived()!;
  const look = hitLook(hit, montage.families);
  const frame = media.get(hit.source)?.indexAt(hit.t) ?? 0;
  const picture = useMemo(() => ({ source: hit.source, frame, fit: 'fill' as const }), [hit.source, frame]);
  const { width, height } = montage.settings;
  return (
    <button
      className="block w-full rounded-sm text-left hover:outline-2 hover:outline-lamp"
      title={action}
      aria-label={`${action}: ${look.name} at ${hit.t.toFixed(1)} s`}
      onClick={onClick}
    >
      <span className="block h-[63px] overflow-hidden rounded-sm bg-black">
        <SourcePicture
          picture={picture}
          width={Math.round((63 * width) / height)}
          height={63}
          label={`${look.name} at ${hit.t.toFixed(1)} s`}
        />
      </span>
      <span style={{ color: look.colour }}>{look.name}</span>
    </button>
  );
}
