/** A small picture of a family's clearest sound: bands from low to high over a fifth of a second. */
import { useEffect, useRef } from 'react';
import { BARK_BANDS, hopOf } from '../../core/finding/signals/types.ts';
import type { ShownFamily } from '../stores/families.ts';
import { useMedia } from '../stores/media.ts';

/** Hops before the attack and in all. */
const BEFORE = 4;
const HOPS = 28;
/** Decibels from black to full. */
const RANGE = 50;

export function SoundPicture({ family }: { family: ShownFamily }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const sound = useMedia((s) => Object.values(s.signals[family.source]?.sounds ?? {})[0]);
  const { t } = family.example;
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !sound) return;
    const picture = context.createImageData(HOPS, BARK_BANDS);
    const first = hopOf(sound, t) - BEFORE;
    const level = (hop: number, band: number): number => sound.bands[(first + hop) * BARK_BANDS + band] ?? 0;
    let top = 0;
    for (let hop = 0; hop < HOPS; hop++) for (let b = 0; b < BARK_BANDS; b++) top = Math.max(top, level(hop, b));
    for (let hop = 0; hop < HOPS; hop++)
      for (let b = 0; b < BARK_BANDS; b++) {
        const share = Math.max(0, 1 - (top - level(hop, b)) / RANGE);
        picture.data.set(
          [242 * share, 165 * share ** 1.5, 65 * share ** 2, 255],
          ((BARK_BANDS - 1 - b) * HOPS + hop) * 4,
        );
      }
    context.putImageData(picture, 0, 0);
  }, [sound, t]);
  return (
    <canvas
      ref={canvas}
      width={HOPS}
      height={BARK_BANDS}
      className="h-14 w-24 rounded-sm bg-night"
      style={{ imageRendering: 'pixelated' }}
      role="img"
      aria-label="Its sound: low to high over a fifth of a second"
    />
  );
}
