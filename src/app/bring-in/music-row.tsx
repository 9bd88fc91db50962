/** A piece of music: where it lies, what of it is heard, how loud; and laying one of its moments on a hit. */
import { useState } from 'react';
import { nanoid } from 'nanoid';
import { Music, Scissors, Trash2 } from 'lucide-react';
import type { MusicItem } from '../../core/document/types.ts';
import { musicSourceTime } from '../../core/timeline/music.ts';
import { changeMusic, removeMusic, splitMusic } from '../../core/timeline/row.ts';
import { TimeField } from '../parts/time-field.tsx';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { layMomentOnHit, momentsOf, secondsNow } from '../stores/row.ts';
import { useView } from '../stores/view.ts';

export function MusicRow({ item, at }: { item: MusicItem; at: number }) {
  const derived = useDerived()!;
  const { rate } = derived.line;
  const name = derived.montage.sources.find((s) => s.id === item.source)?.name ?? 'a source that is gone';
  const inside = useView(({ playhead }) => musicSourceTime(item, derived.line.timeOf(playhead)) !== null);
  const field = (label: string, key: 'at' | 'in' | 'out' | 'fadeIn' | 'fadeOut') => (
    <label className="flex items-center justify-between gap-1 whitespace-nowrap">
      {label}
      <TimeField
        label={`${label} of music ${at + 1}`}
        rate={rate}
        seconds={item[key] ?? 0}
        onSeconds={(value) => edit(changeMusic(item.id, { [key]: value }), `music-${item.id}-${key}`)}
      />
    </label>
  );
  return (
    <li className="rounded-md border border-rope px-3 py-2 text-[12px] text-fog" data-music={item.id}>
      <div className="flex items-center gap-1">
        <Music size={13} className="shrink-0 text-tide" />
        <span className="min-w-0 grow truncate text-[13px] text-sail" title={name}>
          {name}
        </span>
        <button
          className="key-quiet"
          aria-label={`Cut music ${at + 1} at the playhead`}
          title="Cut at the playhead"
          disabled={!inside}
          onClick={() => edit(splitMusic(item.id, secondsNow(), nanoid(8)))}
        >
          <Scissors size={13} />
        </button>
        <button className="key-quiet" aria-label={`Remove music ${at + 1}`} onClick={() => edit(removeMusic(item.id))}>
          <Trash2 size={13} />
        </button>
      </div>
      <div className="mt-1 grid grid-cols-2 gap-x-3 gap-y-1">
        {field('lies at', 'at')}
        <label className="flex items-center justify-between gap-1">
          gain
          <input
            className="range w-20"
            type="range"
            min={0}
            max={2}
            step={0.05}
            value={item.gain}
            aria-label="Volume of the music"
            onChange={(event) =>
              edit(changeMusic(item.id, { gain: Number(event.currentTarget.value) }), `gain-${item.id}`)
            }
          />
        </label>
        {field('from', 'in')}
        {field('to', 'out')}
        {field('fade in', 'fadeIn')}
        {field('fade out', 'fadeOut')}
      </div>
      <LayOn item={item} at={at} />
    </li>
  );
}

/** One command brings a moment of the music and the chosen hit together. */
function LayOn({ item, at }: { item: MusicItem; at: number }) {
  const derived = useDerived()!;
  const chosen = useView((s) => s.chosen);
  // Beats near the playhead are offered where it comes to rest.
  useView((s) => (s.playing ? -1 : s.playhead));
  const moments = momentsOf(derived, item);
  const [wanted, setWanted] = useState('');
  const moment = moments.find(({ id }) => id === wanted) ?? moments[0];
  const hit = derived.everywhere.find((o) => o.key === chosen);
  const ofPicture = hit !== undefined && hit.hit.source !== item.source && derived.line.spanAt(hit.frame) !== null;
  if (!moments.length)
    return <p className="mt-1">Find hits: then its drops and beats can be laid on hits of the picture.</p>;
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-1 border-t border-rope pt-1.5">
      <select
        className="field min-w-0 grow py-0"
        aria-label={`Moment of music ${at + 1}`}
        value={moment!.id}
        onChange={(event) => setWanted(event.currentTarget.value)}
      >
        {moments.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      <button
        className="key px-1.5 py-0"
        disabled={!ofPicture}
        title="Moves the music so that this moment falls on the chosen hit"
        onClick={() => hit && layMomentOnHit(item, moment!.t, hit, 'music')}
      >
        Lay on the hit
      </button>
      <button
        className="key px-1.5 py-0"
        disabled={!ofPicture}
        title="Leaves the music, and slips the clip so that the chosen hit falls on this moment"
        onClick={() => hit && layMomentOnHit(item, moment!.t, hit, 'clip')}
      >
        Slip the clip
      </button>
    </div>
  );
}
