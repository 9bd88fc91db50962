/** What is set on one placement, whether a rule laid it or a hand. */
import { Hand } from 'lucide-react';
import type { Override } from '../../core/document/types.ts';
import { timecode } from '../../core/base/time.ts';
import type { Placement } from '../../core/accents/placements.ts';
import { randomSeed } from '../parts/seed.ts';
import { choose } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { changePlacement, dropPlacements, setOn } from '../stores/laying.ts';
import { edit } from '../stores/montage.ts';

export function PlacementRow({ placement }: { placement: Placement }) {
  const { montage, line, planner } = useDerived()!;
  const { hand } = placement;
  const set = setOn(placement, montage);
  const intensity = set.intensity ?? placement.intensity;
  const before = planner.placements
    .filter((p) => p.accent.accent.id === placement.accent.accent.id && p.frame < placement.frame)
    .at(-1);
  const change = (part: Override, gesture?: string): void =>
    edit(changePlacement(placement, part), gesture && `${gesture}-${placement.key}`);
  return (
    <div className="flex flex-col gap-1.5 rounded-md bg-plank p-2.5" data-placement={placement.key}>
      <div className="flex items-center gap-2">
        {hand && <Hand size={13} className="text-lamp" aria-label="Laid by hand" />}
        <span className="min-w-0 grow truncate font-medium">{placement.accent.accent.name}</span>
        <button className="mono text-[12px] text-fog hover:text-sail" onClick={() => choose(placement.occurrence)}>
          {timecode(placement.frame, line.rate)}
        </button>
      </div>
      <label className="grid grid-cols-[70px_1fr_40px] items-center gap-2 text-[12px] text-fog">
        Intensity
        <input
          className="range"
          type="range"
          min={0}
          max={2}
          step={0.05}
          value={intensity}
          onChange={(event) => change({ intensity: Number(event.currentTarget.value) }, 'intensity')}
        />
        <span className="mono text-right">{Math.round(intensity * 100)} %</span>
      </label>
      <div className="flex flex-wrap items-center gap-1.5">
        <button
          className="key"
          aria-pressed={placement.muted}
          onClick={() => change({ mute: placement.muted ? undefined : true })}
        >
          Mute
        </button>
        <button
          className="key"
          aria-label="Accent one frame earlier"
          onClick={() => change({ nudge: (set.nudge ?? 0) - 1 || undefined })}
        >
          −1 f
        </button>
        <span className="mono text-[12px] text-fog">{set.nudge ?? 0}</span>
        <button
          className="key"
          aria-label="Accent one frame later"
          onClick={() => change({ nudge: (set.nudge ?? 0) + 1 || undefined })}
        >
          +1 f
        </button>
        <button className="key" onClick={() => change({ seed: randomSeed() })}>
          Another seed
        </button>
        {before && (
          <button
            className="key"
            title="The random values of the one before"
            onClick={() => change({ seed: before.seed })}
          >
            Same again
          </button>
        )}
      </div>
      {hand && (
        <button className="key-quiet self-start" onClick={() => dropPlacements([placement])}>
          Remove
        </button>
      )}
      {!hand && Object.keys(set).length > 0 && (
        <button
          className="key-quiet self-start"
          onClick={() =>
            change({ mute: undefined, nudge: undefined, intensity: undefined, seed: undefined, regions: undefined })
          }
        >
          Back to the rule
        </button>
      )}
    </div>
  );
}
