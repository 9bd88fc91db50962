/** The frames around the playhead or chosen hit, side by side, the hit's own frame marked. */
import { useRef } from 'react';
import { timecode } from '../../core/base/time.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { moveChosenTo, seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { ACCENT_TYPE, layAt } from '../stores/laying.ts';
import { useView } from '../stores/view.ts';

/** Frames shown on each side. */
export const SIDE = 7;
/** Height of its pictures at the most, pixels: tall ones stand in the middle of their place. */
const MOST_TALL = 64;

export function FrameStrip() {
  const derived = useDerived();
  // While playing the strip stands still: the picture above moves.
  const still = useRef(0);
  const playhead = useView((s) => (s.playing ? still.current : s.playhead));
  const chosen = useView((s) => s.chosen);
  still.current = playhead;
  if (!derived || derived.line.count === 0) return <div />;
  const hit = derived.shown.find((o) => o.key === chosen);
  const near = hit && Math.abs(hit.frame - playhead) <= SIDE;
  const middle = near ? hit.frame : playhead;
  const { width, height } = derived.montage.settings;
  const tall = Math.min(MOST_TALL, Math.max(24, Math.round((84 * height) / width)));
  return (
    <section aria-label="Frames around the hit" className="border-t border-rope bg-deck px-2 py-2">
      <ol className="grid grid-cols-[repeat(15,minmax(0,1fr))] gap-1">
        {Array.from({ length: 2 * SIDE + 1 }, (_, i) => middle + i - SIDE).map((frame, i) => {
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
                  {hit ? `${frame - hit.frame > 0 ? '+' : ''}${frame - hit.frame}` : frame}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
