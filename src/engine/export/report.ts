/** What an export says of itself. */
import type { ExportResult } from './export.ts';

/** What of the sources could not be read, in a sentence; empty where all could. */
export const damageSentence = (damaged: ExportResult['damaged']): string =>
  damaged
    .map(({ source, frames, seconds }) => {
      const parts = [
        ...(frames ? [`${frames} ${frames === 1 ? 'frame' : 'frames'} (the one before is shown)`] : []),
        ...(seconds ? [`${seconds.toFixed(1)} s of sound (silent)`] : []),
      ];
      return `${source} is damaged: ${parts.join(' and ')} could not be read.`;
    })
    .join(' ');
