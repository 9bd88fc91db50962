/** A clip of the row: its place, its trims, its fit. */
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

export function ClipRow({ clip, at, last }: { clip: Clip; at: number; last: boolean }) {
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
    <li className="rounded-md border border-rope px-3 py-2 text-[12px] text-fog">
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
    </li>
  );
}
