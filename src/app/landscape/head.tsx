/** The playhead, moved by itself: nothing else is drawn anew at every frame. */
import { useLayoutEffect, useRef } from 'react';
import { useView } from '../stores/view.ts';
import { frameToX, type View } from './geometry.ts';

interface Props {
  readonly view: View;
  readonly width: number;
  /** Whether the frame's own width is marked, too. */
  readonly broad?: boolean;
}

export function Head({ view, width, broad = false }: Props) {
  const element = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    let shown = -1;
    const place = ({ playhead }: { playhead: number }): void => {
      if (playhead === shown) return;
      shown = playhead;
      element.current!.style.transform = `translateX(${frameToX(playhead, view, width)}px)`;
    };
    place(useView.getState());
    return useView.subscribe(place);
  }, [view, width]);
  return (
    <div aria-hidden ref={element} className="pointer-events-none absolute inset-y-0 left-0 z-30 w-px bg-sail">
      {broad && (
        <div
          className="absolute inset-y-0 left-0 bg-sail/15"
          style={{ width: Math.max(1, width / (view[1] - view[0])) }}
        />
      )}
    </div>
  );
}
