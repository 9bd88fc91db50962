/** The clips of the row: the place, the trims, the fit of each. */
import { useRef } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { nanoid } from 'nanoid';
import { ArrowDown, ArrowUp, Scissors, Trash2 } from 'lucide-react';
import { timecode } from '../../core/base/time.ts';
import type { Clip } from '../../core/document/types.ts';
import { setFit } from '../../core/document/formats.ts';
import { placeClip, removeClip, slipClip, splitClip, trimClip } from '../../core/timeline/row.ts';
import { TimeField } from '../parts/time-field.tsx';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

/** Height of a clip's card with the gap below it, pixels. */
const CARD = 124;

/** However many there are, those in sight are drawn. */
export function ClipList({ clips }: { clips: readonly Clip[] }) {
  const scroller = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: clips.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => CARD,
    overscan: 2,
    getItemKey: (i) => clips[i]!.id,
  });
  return (
    // A few stand in the panel itself; more of them have a height of their own.
    <div ref={scroller} className={clips.length > 3 ? 'max-h-[372px] shrink-0 overflow-y-auto' : ''}>
      <ol className="relative" style={{ height: list.getTotalSize() }} aria-label="Clips">
        {list.getVirtualItems().map(({ index, key, start }) => (
          <li
            key={key}
            ref={list.measureElement}
            data-index={index}
            className="absolute inset-x-0 pb-2"
            style={{ top: start }}
            aria-posinset={index + 1}
            aria-setsize={clips.length}
          >
            <ClipRow clip={clips[index]!} at={index} last={index === clips.length - 1} />
          </li>
        ))}
      </ol>
    </div>
  );
}

function ClipRow({ clip, at, last }: { clip: Clip; at: number; last: boolean }) {
  const derived = useDerived()!;
  const format = useView((s) => s.format);
  const source = derived.montage.sources.find((s) => s.id === clip.source);
  const span = derived.line.spans.find((s) => s.clip.id === clip.id);
  const times = derived.media.get(clip.source);
  const inside = useView((s) => span !== undefined && s.playhead > span.first && s.playhead < span.end);
  const cut = (): void => {
    if (span && times)
      edit(splitClip(clip.id, times.timeOf(derived.line.sourceFrame(span, useView.getState().playhead)), nanoid(8)));
  };
  const bound = (name: 'in' | 'out') => (
    <label className="flex items-center gap-1">
      {name}
      <TimeField
        label={`${name} of clip ${at + 1}`}
        rate={source?.video?.rate ?? derived.line.rate}
        seconds={clip[name]}
        onSeconds={(value) => edit(trimClip(clip.id, { [name]: value }), `trim-${clip.id}-${name}`)}
      />
    </label>
  );
  return (
    <div className="rounded-md border border-rope px-3 py-2 text-[12px] text-fog">
      <div className="flex items-center gap-1">
        <span className="min-w-0 grow truncate text-[13px] text-sail">
          {at + 1}. {source?.name}
        </span>
        <button
          className="key-quiet"
          aria-label={`Clip ${at + 1} earlier`}
          disabled={at === 0}
          onClick={() => edit(placeClip(clip.id, at - 1))}
        >
          <ArrowUp size={13} />
        </button>
        <button
          className="key-quiet"
          aria-label={`Clip ${at + 1} later`}
          disabled={last}
          onClick={() => edit(placeClip(clip.id, at + 1))}
        >
          <ArrowDown size={13} />
        </button>
        <button
          className="key-quiet"
          aria-label={`Cut clip ${at + 1} at the playhead`}
          title="Cut at the playhead"
          disabled={!inside || !times}
          onClick={cut}
        >
          <Scissors size={13} />
        </button>
        <button className="key-quiet" aria-label={`Remove clip ${at + 1}`} onClick={() => edit(removeClip(clip.id))}>
          <Trash2 size={13} />
        </button>
      </div>
      <div className="mt-1 flex items-center gap-2">
        {bound('in')}
        {bound('out')}
        <select
          className="field py-0"
          aria-label={`Fit of clip ${at + 1}`}
          value={clip.fit}
          onChange={(event) => edit(setFit(clip.id, event.currentTarget.value as Clip['fit'], format))}
        >
          <option value="fit">whole</option>
          <option value="fill">filled</option>
          <option value="focus">focus</option>
        </select>
      </div>
      <div className="mt-1 flex items-center gap-1">
        <span className="grow">slip what it shows</span>
        {([-10, -1, 1, 10] as const).map((frames) => (
          <button
            key={frames}
            className="key px-1.5 py-0"
            title="Shows another stretch of the source between the same ends"
            aria-label={`Slip clip ${at + 1} by ${frames} frames`}
            onClick={() =>
              source?.video && edit(slipClip(clip.id, (frames * source.video.rate.den) / source.video.rate.num))
            }
          >
            {frames > 0 ? `+${frames}` : frames}
          </button>
        ))}
      </div>
      {span && (
        <p className="mono mt-1 text-[11px]">
          {timecode(span.first, derived.line.rate)} – {timecode(span.end, derived.line.rate)}
        </p>
      )}
    </div>
  );
}
