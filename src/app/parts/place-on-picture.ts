import type { PointerEvent } from 'react';
import type { Point } from '../../core/document/types.ts';

/** Where on the shown picture a pointer is, shares of it; beside it the nearest place. */
export function placeOnPicture(event: PointerEvent): Point {
  const box = event.currentTarget.closest('[data-on-picture]')!.getBoundingClientRect();
  const share = (value: number): number => Math.min(1, Math.max(0, value));
  return { x: share((event.clientX - box.left) / box.width), y: share((event.clientY - box.top) / box.height) };
}
