/** From kept hits to a row of clips, by rules whose result is shown while they are changed. */
import { useMemo, useState } from 'react';
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { nanoid } from 'nanoid';
import { labelsOf } from '../../core/document/families.ts';
import { HIT_KINDS } from '../../core/document/types.ts';
import { gridOf } from '../../core/finding/detectors/index.ts';
import { gather, setGathered, type Gathering } from '../../core/timeline/gather.ts';
import { musicTime } from '../../core/timeline/music.ts';
import { carries } from '../../core/accents/placements.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { hitLook, kindName } from '../parts/kinds.ts';
import { NumberField } from '../parts/number-field.tsx';
import { useDerived, type Derived } from '../stores/derived.ts';
import { useMedia } from '../stores/media.ts';
import { edit } from '../stores/montage.ts';
import { notice } from '../stores/view.ts';

/** Montage seconds of the beats of all music that lies in the montage. */
function beatsOf({ montage }: Derived): number[] {
  const { signals } = useMedia.getState();
  return montage.music
    .flatMap((item) => {
      const source = montage.sources.find(({ id }) => id === item.source);
      const grid = source && signals[item.source] && gridOf(source, signals[item.source]!, montage.sensitivity.beat);
      return grid ? grid.beats.flatMap((t) => musicTime(item, t) ?? []) : [];
    })
    .sort((a, b) => a - b);
}

/** Clips of which a picture is shown. */
const SHOWN = 60;

export function GatherDialog({ onClose }: { onClose: () => void }) {
  const derived = useDerived()!;
  const { montage, everywhere } = derived;
  const { rate } = derived.line;
  const [left, setLeft] = useState<readonly string[]>([]);
  const [order, setOrder] = useState<Gathering['order']>('time');
  const [before, setBefore] = useState(1);
  const [after, setAfter] = useState(1.5);
  const [most, setMost] = useState(0);
  const [longest, setLongest] = useState(0);
  const [onBeats, setOnBeats] = useState(false);
  const [keep, setKeep] = useState(false);
  const kept = useMemo(
    () =>
      montage.hits.filter((hit) => carries(hit) && hit.kind !== 'join' && hit.kind !== 'beat' && hit.kind !== 'drop'),
    [montage.hits],
  );
  const beats = useMemo(() => beatsOf(derived), [derived]);
  const labels = useMemo(() => {
    const counts = new Map<string, number>();
    for (const hit of kept)
      for (const label of labelsOf(hit, montage.families)) counts.set(label, (counts.get(label) ?? 0) + 1);
    return [...counts];
  }, [kept, montage.families]);
  const wanted = useMemo(
    () => kept.filter((hit) => labelsOf(hit, montage.families).some((label) => !left.includes(label))),
    [kept, left, montage.families],
  );
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
      }),
    [rate, montage.sources, wanted, before, after, order, most, longest, onBeats, beats],
  );
  const frameOf = useMemo(() => new Map(everywhere.map(({ hit, frame }) => [hit.id, frame])), [everywhere]);
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
          <p className="text-fog" data-gathered={result.clips.length} data-left={result.left.length}>
            <b className="text-sail">{result.clips.length}</b> clips,{' '}
            <b className="text-sail">{result.length.toFixed(1)} s</b>
            {result.left.length > 0 && `, ${result.left.length} hits left out`}
          </p>
          <ol
            className="grid min-h-24 grow grid-cols-6 content-start gap-1.5 overflow-y-auto"
            aria-label="Clips of the row"
          >
            {result.clips.slice(0, SHOWN).map((clip) => {
              const hit = kept.find(({ id }) => id === clip.hits[0])!;
              const frame = frameOf.get(hit.id);
              const look = hitLook(hit, montage.families);
              return (
                <li key={hit.id} className="text-[11px] text-fog">
                  {frame === undefined ? (
                    <div className="aspect-video rounded-sm bg-plank" />
                  ) : (
                    <FramePicture
                      frame={frame}
                      width={112}
                      height={63}
                      plain
                      label={`${look.name} at ${hit.t.toFixed(1)} s`}
                    />
                  )}
                  <span style={{ color: look.colour }}>{look.name}</span>
                  {clip.hits.length > 1 && ` +${clip.hits.length - 1}`} · {(clip.out - clip.in).toFixed(1)} s
                </li>
              );
            })}
          </ol>
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
