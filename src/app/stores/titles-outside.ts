/** Titles that are not whole on the picture of a version, looked for before an export. */
import { planner } from '../../core/accents/plan.ts';
import { formatsOf, inFormat } from '../../core/document/formats.ts';
import type { Montage } from '../../core/document/types.ts';
import type { MediaIndex } from '../../core/timeline/timeline.ts';
import { EFFECTS } from '../../effects/index.ts';
import { frameServer } from './media.ts';

export interface TitleOutside {
  readonly text: string;
  /** The version's name. */
  readonly format: string;
  /** Montage frame on which it is seen so. */
  readonly frame: number;
}

/** Stretches of each title that are looked at, evenly over all of them. */
const MOST_LOOKED_AT = 40;

/** @param wanted ids of versions; null is the montage's own shape */
export async function titlesOutside(
  montage: Montage,
  media: MediaIndex,
  wanted: readonly (string | null)[],
): Promise<TitleOutside[]> {
  if (!montage.titles?.some(({ on }) => on)) return [];
  const found: TitleOutside[] = [];
  for (const { id, name, width, height } of formatsOf(montage).filter((one) => wanted.includes(one.id))) {
    const plans = planner(inFormat(montage, id), media, EFFECTS);
    for (const title of montage.titles) {
      const own = plans.titleStretches().filter((stretch) => stretch.id === title.id);
      const step = Math.max(1, Math.ceil(own.length / MOST_LOOKED_AT));
      const frames = own.filter((_, i) => i % step === 0).map(({ from, to }) => Math.floor((from + to) / 2));
      const seen = frames.flatMap((frame) => {
        const drawn = plans.at(frame).titles.find((one) => one.id === title.id);
        return drawn ? [{ frame, drawn }] : [];
      });
      const whole = await frameServer().whole(
        seen.map(({ drawn }) => drawn),
        width,
        height,
      );
      const out = seen.find((_, i) => !whole[i]);
      if (out) found.push({ text: out.drawn.text, format: name, frame: out.frame });
    }
  }
  return found;
}
