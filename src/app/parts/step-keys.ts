/** Keys that move something by steps. */
import type { KeyboardEvent } from 'react';

export const SIDEWAYS = { ArrowLeft: -1, ArrowRight: 1 } as const;

/** Acts on the keys that have a step, and keeps them from what lies around. */
export const stepKeys =
  (steps: Readonly<Record<string, number>>, act: (by: number) => void) =>
  (event: KeyboardEvent): void => {
    const by = steps[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    act(by);
  };
