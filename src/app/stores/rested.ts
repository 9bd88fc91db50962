/**
 * What follows from the montage, for what need not keep up with a hand that drags: while a gesture goes on it stays as it
 * was, and follows when the hand rests. Placing and drawing thousands of accents takes longer than a frame lasts.
 */
import { create } from 'zustand';
import { derivedNow, type Derived } from './derived.ts';
import { useMedia } from './media.ts';
import { useMontage } from './montage.ts';
import { useView } from './view.ts';

/** Milliseconds that a gesture must rest. */
const REST = 120;

const useRested = create<{ derived: Derived | null }>(() => ({ derived: null }));
let resting: ReturnType<typeof setTimeout> | undefined;

function follow(): void {
  clearTimeout(resting);
  const now = (): void => {
    const derived = derivedNow();
    if (derived !== useRested.getState().derived) useRested.setState({ derived });
  };
  const { group, montage } = useMontage.getState();
  // Never another montage's, however the hand moves.
  if (group === null || montage?.id !== useRested.getState().derived?.montage.id) now();
  else resting = setTimeout(now, REST);
}

useMontage.subscribe(follow);
useMedia.subscribe(follow);
useView.subscribe((now, before) => {
  if (now.hidden !== before.hidden || now.format !== before.format) follow();
});

export const useRestedDerived = (): Derived | null => useRested((s) => s.derived);
