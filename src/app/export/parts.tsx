/** What of the montage is exported: all of it, a range, each clip, or a while about each kept hit as a file of its own. */
import { isOfKind, carries } from '../../core/document/hits.ts';
import type { ExportOptions } from '../../engine/index.ts';
import { timecode } from '../../core/base/time.ts';
import { kindName } from '../parts/kinds.ts';
import { NumberField } from '../parts/number-field.tsx';
import { TimeField } from '../parts/time-field.tsx';
import { useDerived, type Derived } from '../stores/derived.ts';
import { useView } from '../stores/view.ts';

export type PartsChoice =
  | { readonly kind: 'whole' }
  /** Montage seconds. */
  | { readonly kind: 'range'; readonly from: number; readonly to: number }
  | { readonly kind: 'clips' }
  /** Seconds before and after each. */
  | { readonly kind: 'hits'; readonly before: number; readonly after: number };

export const WHOLE: PartsChoice = { kind: 'whole' };

const NAMES: Record<PartsChoice['kind'], string> = {
  whole: 'the whole montage',
  range: 'a range of it',
  clips: 'each clip, a file each',
  hits: 'each kept hit, a file each',
};

/** Ranges of output frames, with what tells their files apart. */
export function partsOf(
  choice: PartsChoice,
  { line, everywhere }: Derived,
): readonly { readonly part: string; readonly range: ExportOptions['range'] }[] {
  const frame = (seconds: number): number => Math.round(seconds * line.fps);
  switch (choice.kind) {
    case 'whole':
      return [{ part: '', range: undefined }];
    case 'range': {
      const range = { from: Math.max(0, frame(choice.from)), to: Math.min(line.count, frame(choice.to)) };
      return range.to > range.from ? [{ part: 'part', range }] : [];
    }
    case 'clips':
      return line.spans.map(({ first, end }, i) => ({ part: `clip ${i + 1}`, range: { from: first, to: end } }));
    case 'hits':
      return everywhere
        .filter(({ hit }) => carries(hit) && !isOfKind(hit, 'join'))
        .map(({ frame: at, hit }, i) => ({
          part: `hit ${i + 1} ${kindName(hit.kind)}`,
          range: {
            from: Math.max(0, at - frame(choice.before)),
            to: Math.min(line.count, at + Math.max(1, frame(choice.after))),
          },
        }));
  }
}

export function Parts({ parts, onParts }: { parts: PartsChoice; onParts: (parts: PartsChoice) => void }) {
  const { line } = useDerived()!;
  const here = (): number => line.timeOf(useView.getState().playhead);
  const begin = (kind: PartsChoice['kind']): PartsChoice => {
    if (kind === 'range') return { kind, from: 0, to: line.duration };
    return kind === 'hits' ? { kind, before: 1, after: 2 } : { kind };
  };
  return (
    <fieldset className="flex flex-col gap-1">
      <label className="flex items-center justify-between gap-2">
        What
        <select
          className="field w-52"
          aria-label="What is exported"
          value={parts.kind}
          onChange={(event) => onParts(begin(event.currentTarget.value as PartsChoice['kind']))}
        >
          {Object.entries(NAMES).map(([kind, name]) => (
            <option key={kind} value={kind}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {parts.kind === 'range' && (
        <div className="flex flex-wrap items-center justify-end gap-2 text-[12px] text-fog">
          {(['from', 'to'] as const).map((end) => (
            <label key={end} className="flex items-center gap-1">
              {end}
              <TimeField
                label={`Range ${end}`}
                rate={line.rate}
                seconds={parts[end]}
                onSeconds={(seconds) => onParts({ ...parts, [end]: seconds })}
              />
              <button
                className="key px-1 py-0"
                title={`${timecode(useView.getState().playhead, line.rate)}, where the playhead stands`}
                aria-label={`Range ${end} the playhead`}
                onClick={() => onParts({ ...parts, [end]: here() + (end === 'to' ? 1 / line.fps : 0) })}
              >
                here
              </button>
            </label>
          ))}
        </div>
      )}
      {parts.kind === 'hits' && (
        <div className="flex items-center justify-end gap-2 text-[12px] text-fog">
          {(['before', 'after'] as const).map((end) => (
            <label key={end} className="flex items-center gap-1">
              seconds {end}
              <NumberField
                label={`Seconds ${end} each exported hit`}
                value={parts[end]}
                min={0}
                max={60}
                step={0.1}
                onValue={(value) => onParts({ ...parts, [end]: value })}
              />
            </label>
          ))}
        </div>
      )}
    </fieldset>
  );
}
