/** The chosen hit's point of action on the picture: dragged, or set by a click. */
import { useRef } from 'react';
import { focusOnScreen, setFocusHere } from '../stores/focus.ts';
import { useDerived } from '../stores/derived.ts';
import { placeOnPicture } from './place-on-picture.ts';
import { SIDEWAYS, stepKeys } from './step-keys.ts';
import { newGesture } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

export function FocusMark() {
  const derived = useDerived();
  const chosen = useView((s) => s.chosen);
  const setting = useView((s) => s.drawing === 'focus');
  // Played pictures are not marked.
  const frame = useView((s) => (s.playing ? -1 : s.playhead));
  const gesture = useRef<string | null>(null);
  const occurrence = derived?.everywhere.find(({ key }) => key === chosen);
  if (!derived || !occurrence || frame < 0) return null;
  const point = focusOnScreen(derived, occurrence.hit, frame);
  return (
    <>
      {setting && (
        <div
          className="absolute inset-0 z-10 cursor-crosshair touch-none"
          data-drawing="focus"
          onPointerDown={(event) => {
            useView.setState({ drawing: null });
            setFocusHere(placeOnPicture(event));
          }}
        />
      )}
      {point && !setting && (
        <div
          role="slider"
          tabIndex={0}
          aria-label="Focus of the chosen hit"
          aria-valuenow={Math.round(point.x * 100)}
          aria-valuetext={`${Math.round(point.x * 100)} % across, ${Math.round(point.y * 100)} % down`}
          data-focus-mark
          title="Where the hit happens: drag it, or move it with the arrow keys"
          className="absolute z-10 -mt-3 -ml-3 size-6 cursor-move touch-none rounded-full border-2 border-lamp bg-lamp/10 shadow-[0_0_0_1px_rgba(0,0,0,0.6)] before:absolute before:inset-[9px] before:rounded-full before:bg-lamp"
          style={{ left: `${point.x * 100}%`, top: `${point.y * 100}%` }}
          onPointerDown={(event) => {
            event.stopPropagation();
            event.currentTarget.setPointerCapture(event.pointerId);
            gesture.current = newGesture();
          }}
          onPointerMove={(event) => gesture.current && setFocusHere(placeOnPicture(event), gesture.current)}
          onPointerUp={() => (gesture.current = null)}
          onPointerCancel={() => (gesture.current = null)}
          onKeyDown={(event) => {
            const move = (dx: number, dy: number): void =>
              setFocusHere({ x: point.x + dx / 100, y: point.y + dy / 100 }, 'focus-keys');
            stepKeys(SIDEWAYS, (by) => move(by, 0))(event);
            stepKeys({ ArrowUp: -1, ArrowDown: 1 }, (by) => move(0, by))(event);
          }}
        />
      )}
    </>
  );
}
