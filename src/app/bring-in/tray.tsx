/** A source's tray: its picture skimmed, its hits, what of it is used; a marked stretch, a hit or all of it is added. */
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { nanoid } from 'nanoid';
import { Plus } from 'lucide-react';
import { STILL } from '../../core/document/edits.ts';
import type { Source } from '../../core/document/types.ts';
import { timecode } from '../../core/base/time.ts';
import { addClip, addMusic, boundsOf } from '../../core/timeline/row.ts';
import { SourcePicture } from '../parts/frame-picture.tsx';
import { hitLook } from '../parts/kinds.ts';
import { useWidth } from '../parts/use-size.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { addAroundHit, secondsNow } from '../stores/row.ts';
import { notice, useView } from '../stores/view.ts';

const HEIGHT = 30;

export function Tray({ source }: { source: Source }) {
  const bounds = boundsOf(source);
  const [skimmed, setSkimmed] = useState(bounds.from);
  const [marks, setMarks] = useState<readonly [number, number] | null>(null);
  const footage = source.video !== null && source.role === 'footage';
  const add = (stretch: { in: number; out: number }): void => {
    edit(addClip(source.id, stretch, nanoid(8)));
    notice(`${(stretch.out - stretch.in).toFixed(2)} s of ${source.name} are at the end of the row.`);
  };
  const whole = source.still
    ? { in: bounds.from, out: bounds.from + STILL.shown }
    : { in: bounds.from, out: bounds.to };
  return (
    <div className="mt-1 flex flex-col gap-1">
      {footage && (
        <div className="flex items-stretch gap-1.5">
          <span className="w-[86px] shrink-0 overflow-hidden rounded-sm">
            <Skimmed source={source} t={skimmed} />
          </span>
          {!source.still && <Strip source={source} {...{ skimmed, setSkimmed, marks, setMarks }} />}
        </div>
      )}
      <div className="flex flex-wrap gap-1 text-[12px]">
        {footage && (
          <>
            {marks && (
              <button
                className="key gap-0.5 px-1 py-0"
                title="From mark to mark, at the end of the row"
                onClick={() => add({ in: marks[0], out: marks[1] })}
              >
                <Plus size={12} /> marked {(marks[1] - marks[0]).toFixed(1)} s
              </button>
            )}
            <button
              className="key gap-0.5 px-1 py-0"
              title={source.still ? 'For three seconds, at the end of the row' : 'All of it, at the end of the row'}
              onClick={() => add(whole)}
            >
              <Plus size={12} /> to the row
            </button>
            {!source.still && <AroundHit source={source} />}
          </>
        )}
        {source.audio.some(({ readable }) => readable) && (
          <button
            className="key gap-0.5 px-1 py-0"
            title="As music, from the playhead on"
            onClick={() => edit(addMusic(source.id, nanoid(8), secondsNow()))}
          >
            <Plus size={12} /> as music
          </button>
        )}
      </div>
    </div>
  );
}

function AroundHit({ source }: { source: Source }) {
  const chosen = useView((s) => s.chosen);
  return (
    <button
      className="key gap-0.5 px-1 py-0"
      disabled={!chosen}
      title="Two seconds before the chosen hit to two after it, at the end of the row"
      onClick={() => addAroundHit(source)}
    >
      <Plus size={12} /> around the hit
    </button>
  );
}

function Skimmed({ source, t }: { source: Source; t: number }) {
  const derived = useDerived()!;
  const times = derived.media.get(source.id);
  const frame = source.still ? 0 : (times?.indexAt(t) ?? 0);
  const picture = useMemo(() => ({ source: source.id, frame, fit: 'fit' as const }), [source.id, frame]);
  const { width, height } = derived.montage.settings;
  const across = 172;
  return (
    <SourcePicture
      picture={picture}
      width={across}
      height={Math.round(Math.min(172, (across * height) / width))}
      label={`${source.name} at ${t.toFixed(2)} s`}
    />
  );
}

interface StripProps {
  readonly source: Source;
  readonly skimmed: number;
  readonly setSkimmed: (t: number) => void;
  readonly marks: readonly [number, number] | null;
  readonly setMarks: (marks: readonly [number, number] | null) => void;
}

/** All of a source across: skimmed by the pointer or the arrow keys, marked by a drag or by B and E. */
function Strip({ source, skimmed, setSkimmed, marks, setMarks }: StripProps) {
  const derived = useDerived()!;
  const { montage, found } = derived;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [ref, width] = useWidth(180, 40);
  const from = useRef<number | null>(null);
  const bounds = boundsOf(source);
  const length = Math.max(1e-6, bounds.to - bounds.from);
  const x = (t: number): number => ((t - bounds.from) / length) * width;
  const rate = source.video!.rate;
  const step = rate.den / rate.num;
  const times = derived.media.get(source.id);
  /** The start of the frame that is shown at a time. */
  const onFrame = (t: number): number => times?.timeOf(times.indexAt(t)) ?? t;
  const own = useMemo(
    () => montage.hits.filter((hit) => hit.source === source.id && hit.state !== 'rejected'),
    [montage.hits, source.id],
  );
  const finds = found.get(source.id)?.hits;
  useEffect(() => {
    const pen = canvas.current!.getContext('2d')!;
    pen.clearRect(0, 0, width, HEIGHT);
    const place = (t: number): number => ((t - bounds.from) / length) * width;
    pen.fillStyle = '#1b2b33';
    pen.fillRect(0, 0, width, HEIGHT);
    // What of it the row shows, once, twice, as often as it does.
    pen.fillStyle = 'rgba(88,194,188,0.35)';
    for (const clip of montage.clips)
      if (clip.source === source.id)
        pen.fillRect(place(clip.in), HEIGHT - 7, Math.max(1, place(clip.out) - place(clip.in)), 7);
    const kept = new Set(own.map(({ id }) => id));
    pen.globalAlpha = 0.4;
    for (const hit of finds ?? [])
      if (!kept.has(hit.id) && hit.strength > 0.3) {
        pen.fillStyle = hitLook(hit, montage.families).colour;
        pen.fillRect(place(hit.t), 12, 1, HEIGHT - 20);
      }
    pen.globalAlpha = 1;
    for (const hit of own) {
      pen.fillStyle = hitLook(hit, montage.families).colour;
      pen.fillRect(place(hit.t), 4, 1.5, HEIGHT - 12);
    }
  }, [montage.clips, montage.families, own, finds, source.id, width, bounds.from, length]);
  const at = (event: PointerEvent): number => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    return onFrame(bounds.from + share * length);
  };
  const mark = (a: number, b: number): void =>
    setMarks([Math.min(a, b), Math.min(bounds.to, Math.max(a, b, Math.min(a, b) + step))]);
  return (
    <div className="flex min-w-0 grow flex-col justify-between">
      <div
        role="slider"
        tabIndex={0}
        aria-label={`Skim ${source.name}`}
        aria-valuemin={bounds.from}
        aria-valuemax={bounds.to}
        aria-valuenow={Math.round(skimmed * 1000) / 1000}
        aria-valuetext={`${timecode(Math.round((skimmed - bounds.from) / step), rate)}${marks ? `, marked ${marks[0].toFixed(2)} to ${marks[1].toFixed(2)} s` : ''}`}
        title="Move: skim. Drag: mark a stretch. With keys: arrows, B and E for the marks, Enter adds it."
        ref={ref}
        data-strip={source.id}
        className="relative cursor-crosshair touch-none overflow-hidden rounded-sm"
        style={{ height: HEIGHT }}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          from.current = at(event);
          setMarks(null);
        }}
        onPointerMove={(event) => {
          const t = at(event);
          setSkimmed(t);
          if (from.current !== null && Math.abs(x(t) - x(from.current)) > 2) mark(from.current, t);
        }}
        onPointerUp={() => (from.current = null)}
        onPointerCancel={() => (from.current = null)}
        onKeyDown={(event) => {
          const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: 30, PageUp: -30 }[event.key];
          const key = event.key.toLowerCase();
          if (by)
            setSkimmed(onFrame(Math.min(bounds.to - step, Math.max(bounds.from, skimmed + by * step)) + step / 4));
          else if (key === 'b') mark(skimmed, marks && marks[1] > skimmed ? marks[1] : bounds.to);
          else if (key === 'e') mark(marks && marks[0] <= skimmed ? marks[0] : bounds.from, skimmed + step);
          else if (key === 'enter' && marks) edit(addClip(source.id, { in: marks[0], out: marks[1] }, nanoid(8)));
          else if (key === 'escape') setMarks(null);
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
      >
        <canvas ref={canvas} width={width} height={HEIGHT} aria-hidden className="block w-full" />
        {marks && (
          <span
            aria-hidden
            className="pointer-events-none absolute inset-y-0 border-x border-lamp bg-lamp/25"
            style={{ left: x(marks[0]), width: Math.max(2, x(marks[1]) - x(marks[0])) }}
          />
        )}
        <span
          aria-hidden
          className="pointer-events-none absolute inset-y-0 w-px bg-sail"
          style={{ left: x(skimmed) }}
        />
      </div>
      <span className="mono text-[11px] text-fog">
        {timecode(Math.round((skimmed - bounds.from) / step), rate)}
        {marks && ` · ${marks[0].toFixed(2)}–${marks[1].toFixed(2)} s`}
      </span>
    </div>
  );
}
