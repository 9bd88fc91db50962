/** The whole montage as a narrow map, with a window over the part that the landscape shows. */
import { useEffect, useRef } from 'react';
import { seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { useView } from '../stores/view.ts';
import { boundView, frameToX, wholeView, xToFrame, type View } from './geometry.ts';
import { stepKeys } from '../parts/step-keys.ts';
import { KIND_COLOURS } from '../parts/kinds.ts';
import { Head } from './head.tsx';

const HEIGHT = 14;

export function Overview({ view, width }: { view: View; width: number }) {
  const derived = useDerived()!;
  const canvas = useRef<HTMLCanvasElement>(null);
  const grabbed = useRef<number | null>(null);
  const { count } = derived.line;
  const whole = wholeView(count);
  const { shown, line } = derived;
  useEffect(() => {
    const pen = canvas.current?.getContext('2d');
    if (!pen) return;
    pen.clearRect(0, 0, width, HEIGHT);
    const all = wholeView(line.count);
    for (const span of line.spans) {
      pen.fillStyle = span.index % 2 ? '#22343d' : '#1b2b33';
      const left = frameToX(span.first, all, width);
      pen.fillRect(left, 2, Math.max(0.5, frameToX(span.end, all, width) - left - 0.5), HEIGHT - 4);
    }
    // One tick a column, however many hits lie in it.
    let last = -1;
    for (const { hit, frame } of shown) {
      const at = Math.round(frameToX(frame, all, width));
      if (at === last || hit.state === 'rejected') continue;
      last = at;
      pen.fillStyle = KIND_COLOURS[hit.kind];
      pen.fillRect(at, 3, 1, HEIGHT - 6);
    }
  }, [shown, line, width]);
  const [left, right] = [frameToX(view[0], whole, width), frameToX(view[1], whole, width)];
  const show = (from: number): void => useView.setState({ view: boundView([from, from + view[1] - view[0]], count) });
  return (
    <div
      className="relative cursor-pointer touch-none overflow-hidden border-t border-rope bg-night"
      style={{ height: HEIGHT }}
      onPointerDown={(event) => {
        const at = xToFrame(event.clientX - event.currentTarget.getBoundingClientRect().left, whole, width);
        event.currentTarget.setPointerCapture(event.pointerId);
        // Beside the window it jumps there, with its middle under the pointer.
        const inside = at >= view[0] && at <= view[1];
        grabbed.current = inside ? at - view[0] : (view[1] - view[0]) / 2;
        if (!inside) show(at - grabbed.current);
      }}
      onPointerMove={(event) => {
        if (grabbed.current === null) return;
        const at = xToFrame(event.clientX - event.currentTarget.getBoundingClientRect().left, whole, width);
        show(at - grabbed.current);
      }}
      onPointerUp={() => (grabbed.current = null)}
      onPointerCancel={() => (grabbed.current = null)}
      onDoubleClick={(event) =>
        seek(Math.floor(xToFrame(event.clientX - event.currentTarget.getBoundingClientRect().left, whole, width)))
      }
    >
      <canvas ref={canvas} width={width} height={HEIGHT} aria-hidden className="block" />
      <Head view={whole} width={width} />
      <div
        role="slider"
        tabIndex={0}
        aria-label="Part of the montage in sight"
        aria-valuemin={0}
        aria-valuemax={Math.max(0, count - 1)}
        aria-valuenow={Math.round(view[0])}
        aria-valuetext={`frames ${Math.round(view[0])} to ${Math.round(view[1])}`}
        title="Drag: another part of the montage. Double click: go there."
        className="absolute inset-y-0 rounded-xs border border-lamp/80 bg-lamp/10"
        style={{ left, width: Math.max(6, right - left) }}
        onKeyDown={stepKeys({ ArrowLeft: -0.1, ArrowRight: 0.1, PageUp: -1, PageDown: 1 }, (by) =>
          show(view[0] + by * (view[1] - view[0])),
        )}
      />
    </div>
  );
}
