/** How large an element or the window is, as long as it is there. */
import { useCallback, useState, useSyncExternalStore } from 'react';

/** A ref for the element, and its width inside in whole pixels: `otherwise` until it is there, never less than `least`. */
export function useWidth(otherwise: number, least = 0): readonly [(element: Element | null) => void, number] {
  const [width, setWidth] = useState(otherwise);
  const ref = useCallback(
    (element: Element | null) => {
      if (!element) return;
      const observer = new ResizeObserver(([entry]) => setWidth(Math.max(least, Math.floor(entry!.contentRect.width))));
      observer.observe(element);
      return () => observer.disconnect();
    },
    [least],
  );
  return [ref, width];
}

const onResize = (act: () => void): (() => void) => {
  addEventListener('resize', act);
  return () => removeEventListener('resize', act);
};

/** The window's inner size, CSS pixels. */
export const useWindowSize = (): { readonly width: number; readonly height: number } => ({
  width: useSyncExternalStore(onResize, () => innerWidth),
  height: useSyncExternalStore(onResize, () => innerHeight),
});
