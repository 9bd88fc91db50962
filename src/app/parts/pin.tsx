/** Pins: keys that pin a title or a bed to something in the picture, and where pins are on it. */
import { useRef, useState } from 'react';
import type { Pin, Point } from '../../core/document/types.ts';
import { useDerived } from '../stores/derived.ts';
import { pinHere, pinsOnScreen, unpin, waitForPin } from '../stores/pinning.ts';
import { useView, type Pinned } from '../stores/view.ts';
import { placeOnPicture } from './place-on-picture.ts';

/** @param name "title 1", "the bed": for those who hear it */
export function PinKeys({ pinned, pin, name }: { pinned: Pinned; pin: Pin | undefined; name: string }) {
  const waiting = useView((s) => s.drawing === 'pin' && s.pinning?.id === pinned.id);
  return (
    <>
      <button
        className="key px-1.5 py-0"
        aria-pressed={waiting}
        aria-label={pin ? `Set right what ${name} is pinned to` : `Pin ${name}`}
        title={
          pin
            ? 'Press on the picture where it is on this frame'
            : 'It goes along with what you press on in the picture; drag a box over it, and it turns and grows with it'
        }
        onClick={() => waitForPin(pinned)}
      >
        {pin ? 'Mend pin' : 'Pin'}
      </button>
      {pin && (
        <button className="key px-1.5 py-0" aria-label={`Let ${name} go`} onClick={() => unpin(pinned)}>
          Let go
        </button>
      )}
      {waiting && <span role="status">Press on the picture, or drag over what turns and grows.</span>}
    </>
  );
}

/** Pixels that a press moves by before it is a drag. */
const DRAGGED = 8;

/** Waits for a press on the picture, or a drag over it. */
function Waiting({ pinned }: { pinned: Pinned }) {
  const [drag, setDrag] = useState<{ readonly from: Point; readonly to: Point; readonly far: boolean } | null>(null);
  const begun = useRef({ x: 0, y: 0 });
  return (
    <div
      className="absolute inset-0 z-10 cursor-crosshair touch-none"
      data-drawing="pin"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        begun.current = { x: event.clientX, y: event.clientY };
        setDrag({ from: placeOnPicture(event), to: placeOnPicture(event), far: false });
      }}
      onPointerMove={(event) => {
        if (!drag) return;
        const { x, y } = begun.current;
        const far = Math.min(Math.abs(event.clientX - x), Math.abs(event.clientY - y)) >= DRAGGED;
        setDrag({ ...drag, to: placeOnPicture(event), far });
      }}
      onPointerUp={() => {
        if (!drag) return;
        useView.setState({ drawing: null, pinning: null });
        void pinHere(pinned, drag.from, drag.far ? drag.to : null);
      }}
      onPointerCancel={() => setDrag(null)}
    >
      {drag?.far && (
        <span
          className="absolute border-2 border-tide"
          style={{
            left: `${100 * Math.min(drag.from.x, drag.to.x)}%`,
            top: `${100 * Math.min(drag.from.y, drag.to.y)}%`,
            width: `${100 * Math.abs(drag.to.x - drag.from.x)}%`,
            height: `${100 * Math.abs(drag.to.y - drag.from.y)}%`,
          }}
        />
      )}
    </div>
  );
}

/** Where pins are on the picture at the playhead; while one is to be set, the picture waits for a press. */
export function PinMarks() {
  const derived = useDerived();
  const pinning = useView((s) => (s.drawing === 'pin' ? s.pinning : null));
  const frame = useView((s) => (s.playing ? -1 : s.playhead));
  if (!derived || frame < 0) return null;
  return (
    <>
      {pinsOnScreen(derived, frame).map(({ id, at, sure }) => (
        <span
          key={id}
          data-pin-mark
          title={sure ? `Followed, ${Math.round(sure * 100)} % sure` : 'Not found on this frame'}
          className={`absolute -mt-2.5 -ml-2.5 size-5 border-2 ${sure > 0 ? 'border-tide' : 'border-dashed border-ember'}`}
          style={{ left: `${at.x * 100}%`, top: `${at.y * 100}%`, opacity: 0.4 + 0.6 * sure }}
        />
      ))}
      {pinning && <Waiting pinned={pinning} />}
    </>
  );
}
