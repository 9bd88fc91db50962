/** Flashes a second over the whole montage, counted on request: it takes as long as looking through it. */
import { useState } from 'react';
import type { FlashCount } from '../../core/accents/flashes.ts';
import { FlashLine } from '../parts/flash-line.tsx';
import { seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { countFlashes } from '../stores/flashes.ts';
import { usePreferences } from '../stores/view.ts';

export function Safety() {
  const derived = useDerived();
  const dimmed = usePreferences((s) => s.dimmed);
  const [counted, setCounted] = useState<{ montage: unknown; flashes: FlashCount } | null>(null);
  if (!derived || derived.line.count === 0) return null;
  const { montage, line } = derived;
  const count = async (): Promise<void> => {
    const flashes = await countFlashes(derived);
    if (flashes) setCounted({ montage, flashes });
  };
  return (
    <section aria-label="Flash count" className="flex flex-col gap-1">
      <div className="flex items-center gap-2">
        <h2 className="caption grow">Flashes</h2>
        <label
          className="flex items-center gap-1 text-[12px] text-fog"
          title="Here only: what is exported stays as it is"
        >
          <input
            type="checkbox"
            className="accent-lamp"
            checked={dimmed}
            onChange={(event) => usePreferences.setState({ dimmed: event.currentTarget.checked })}
          />
          dim pictures
        </label>
        <button className="key py-0.5" onClick={() => void count()}>
          Count them
        </button>
      </div>
      {counted && (
        <FlashLine
          flashes={counted.flashes}
          where={counted.flashes.at === null ? null : () => seek(line.frameAt(counted.flashes.at!))}
        />
      )}
      {counted && counted.montage !== montage && <p className="text-[12px] text-fog">The montage has changed since.</p>}
    </section>
  );
}
