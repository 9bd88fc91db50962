/** How many flashes a second there are, with a warning and the place when they are too many. */
import { TriangleAlert } from 'lucide-react';
import { MOST_FLASHES, tooMany, type FlashCount } from '../../core/accents/flashes.ts';

export function FlashLine({ flashes, where }: { flashes: FlashCount; where: (() => void) | null }) {
  const many = tooMany(flashes);
  return (
    <p
      className={`flex items-center gap-1.5 text-[12px] ${many ? 'text-ember' : 'text-fog'}`}
      role={many ? 'alert' : undefined}
      data-flashes={flashes.general}
      title="WCAG 2.2, success criterion 2.3.1, and over the whole screen ITU-R BT.1702: no more than three within a second"
    >
      {many && <TriangleAlert size={14} />}
      {flashes.general} general and {flashes.red} red flashes within a second, {flashes.screen} over the whole screen
      {many ? `: more than ${MOST_FLASHES} can hurt` : ''}
      {many && where && (
        <button className="key py-0" onClick={where}>
          Go there
        </button>
      )}
    </p>
  );
}
