/** Handles of the titles that are seen, on the picture: dragged to where they are to lie, within safe margins that are shown. */
import { useRef, useState, type PointerEvent } from 'react';
import { SAFE_AREA } from '../../core/accents/titles.ts';
import { inFormat, placedTitle } from '../../core/document/formats.ts';
import type { Montage } from '../../core/document/types.ts';
import { stepKeys, SIDEWAYS } from '../parts/step-keys.ts';
import { useDerived } from '../stores/derived.ts';
import { edit, newGesture } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

/** Moves a title in the shape that is looked at. */
const moveTitle = (id: string, dx: number, dy: number, group: string): void =>
  edit((m: Montage) => {
    const { format } = useView.getState();
    const moved = (at: number, by: number): number => Math.round(Math.min(300, Math.max(-300, at + by)) * 10) / 10;
    const shown = inFormat(m, format).titles?.find((one) => one.id === id);
    return {
      ...m,
      titles: m.titles?.map((one) =>
        one.id === id && shown
          ? placedTitle(one, format, shown, { x: moved(shown.x, dx), y: moved(shown.y, dy) })
          : one,
      ),
    };
  }, group);

export function TitleMarks() {
  const { montage, planner } = useDerived()!;
  const frame = useView((s) => (s.playing ? -1 : s.playhead));
  const drag = useRef<{ x: number; y: number; gesture: string } | null>(null);
  const [held, setHeld] = useState<string | null>(null);
  if (frame < 0) return null;
  const { width, height } = montage.settings;
  const seen = new Map(planner.at(frame).titles.map((title) => [title.id, title]));
  return (
    <>
      {held && (
        <div
          className="pointer-events-none! absolute border border-dashed border-tide"
          style={{ inset: `${SAFE_AREA * 100}%` }}
          data-safe
        />
      )}
      {montage.titles
        ?.map((title, i) => ({ title, i }))
        .filter(({ title }) => seen.has(title.id))
        .map(({ title: { id }, i }) => ({ i, ...seen.get(id)! }))
        .map(({ id, i, x, y }) => (
          <button
            key={id}
            aria-label={`Place of title ${i + 1}`}
            title="Drag it, or move it with the arrow keys"
            data-title-mark
            className="absolute -mt-2 -ml-2 size-4 cursor-move touch-none rounded-sm border-2 border-tide bg-night/50"
            style={{ left: `${50 + (100 * x * height) / width}%`, top: `${50 + 100 * y}%` }}
            onPointerDown={(event) => {
              event.stopPropagation();
              event.currentTarget.setPointerCapture(event.pointerId);
              drag.current = { x: event.clientX, y: event.clientY, gesture: newGesture() };
              setHeld(id);
            }}
            onPointerMove={(event: PointerEvent) => {
              if (!drag.current) return;
              const box = event.currentTarget.closest('[data-on-picture]')!.getBoundingClientRect();
              const { x: fromX, y: fromY, gesture } = drag.current;
              const [dx, dy] = [event.clientX - fromX, event.clientY - fromY].map((v) => (100 * v) / box.height);
              // A tenth of a percent is the finest step: less is kept for the next move.
              if (Math.abs(dx!) < 0.1 && Math.abs(dy!) < 0.1) return;
              drag.current = { x: event.clientX, y: event.clientY, gesture };
              moveTitle(id, dx!, dy!, gesture);
            }}
            onPointerUp={() => {
              drag.current = null;
              setHeld(null);
            }}
            onPointerCancel={() => setHeld(null)}
            onKeyDown={(event) => {
              stepKeys(SIDEWAYS, (by) => moveTitle(id, by, 0, `title-keys-${id}`))(event);
              stepKeys({ ArrowUp: -1, ArrowDown: 1 }, (by) => moveTitle(id, 0, by, `title-keys-${id}`))(event);
            }}
          />
        ))}
    </>
  );
}
