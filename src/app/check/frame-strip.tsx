/** The frames around the playhead or chosen hit, side by side, the hit's own frame marked. */
import { useRef } from 'react';
import { timecode } from '../../core/base/time.ts';
import { EdgeHandle } from '../parts/edge-handle.tsx';
import { useWidth } from '../parts/use-size.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { moveChosenTo, seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { ACCENT_TYPE, layAt } from '../stores/laying.ts';
import { usePreferences, useView } from '../stores/view.ts';

/** Frames shown on each side at the most. */
const SIDE = 15;
/** Heights of its pictures, pixels: at the least, and at the most when they are made larger. */
const LOWEST = 40;
const TALLEST = 320;
/** Least width of a place, pixels: larger pictures are fewer. */
const NARROWEST = 40;
/** Pixels between two pictures, with their frames. */
const GAP = 8;

export function FrameStrip() {
  const derived = useDerived();
  // While playing the strip stands still: the picture above moves.
  const still = useRef(0);
  const playhead = useView((s) => (s.playing ? still.current : s.playhead));
  const chosen = useView((s) => s.chosen);
  still.current = playhead;
  const wanted = usePreferences((s) => Math.min(TALLEST, Math.max(LOWEST, s.stripHeight)));
  const [place, room] = useWidth(1260);
  if (!derived || derived.line.count === 0) return <div />;
  const { width, height } = derived.montage.settings;
  const most = Math.max(NARROWEST, (wanted * width) / height);
  // As many as have room in their own shape, the same number on both sides.
  const side = Math.max(1, Math.min(SIDE, Math.floor((room / (most + GAP) - 1) / 2)));
  const tall = Math.min(wanted, Math.floor(((room / (2 * side + 1) - GAP) * height) / width));
  const hit = derived.everywhere.find((o) => o.key === chosen);
  const near = hit && Math.abs(hit.frame - playhead) <= SIDE;
  // At the ends of the montage the window stops, instead of showing places where nothing is.
  const last = Math.max(side, derived.line.count - 1 - side);
  const middle = Math.min(last, Math.max(side, near ? hit.frame : playhead));
  return (
    <section ref={place} aria-label="Frames around the hit" className="relative border-t border-rope bg-deck px-2 py-2">
      <EdgeHandle
        edge="top"
        label="Height of the frames"
        title="Drag: larger frames, fewer of them"
        size={wanted}
        limits={[LOWEST, TALLEST]}
        keeps="stripHeight"
      />
      <ol className="grid gap-1" style={{ gridTemplateColumns: `repeat(${2 * side + 1}, minmax(0, 1fr))` }}>
        {Array.from({ length: 2 * side + 1 }, (_, i) => middle + i - side).map((frame, i) => {
          const inside = frame >= 0 && frame < derived.line.count;
          const contact = hit?.frame === frame;
          const here = frame === playhead;
          return (
            <li key={i} className="min-w-0">
              <button
                className={`block w-full overflow-hidden rounded border-2 text-left ${contact ? 'border-lamp' : here ? 'border-sail' : 'border-transparent'} disabled:opacity-30`}
                disabled={!inside}
                aria-label={`Frame ${frame}${contact ? ', the hit' : ''}`}
                aria-current={here || undefined}
                title={hit ? 'Click: go here. Double click: the hit lies here.' : 'Go here'}
                onClick={() => seek(frame)}
                onDoubleClick={() => moveChosenTo(frame)}
                onDragOver={(event) => {
                  if (event.dataTransfer.types.includes(ACCENT_TYPE)) event.preventDefault();
                }}
                onDrop={(event) => {
                  const accent = event.dataTransfer.getData(ACCENT_TYPE);
                  if (accent) layAt(accent, frame);
                }}
              >
                <span className="block bg-black" style={{ height: tall }}>
                  {inside && (
                    <FramePicture
                      frame={frame}
                      width={Math.round((tall * 2 * width) / height)}
                      height={tall * 2}
                      plain
                      label={`Frame ${frame}`}
                    />
                  )}
                </span>
                <span
                  className={`mono block text-center text-[10.5px] ${contact ? 'bg-lamp text-night' : 'text-fog'}`}
                  title={timecode(Math.max(0, frame), derived.line.rate)}
                >
                  {near ? `${frame - hit.frame > 0 ? '+' : ''}${frame - hit.frame}` : frame}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
