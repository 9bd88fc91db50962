/** Speeds along a clip, frame by frame: columns are output frames, cells the speed there and the source frame that is shown. */
import { LIMITS } from '../../core/document/limits.ts';
import type { Clip } from '../../core/document/types.ts';
import { keySpeeds } from '../../core/timeline/row.ts';
import type { ClipSpan } from '../../core/timeline/timeline.ts';
import { NumberField } from '../parts/number-field.tsx';
import { seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

/** Columns that are drawn at once, about the playhead. */
const COLUMNS = 5;

type Speeds = NonNullable<Clip['speeds']>;

export function SpeedLadder({ clip, span, at }: { clip: Clip; span: ClipSpan; at: number }) {
  const { line } = useDerived()!;
  const playhead = useView((s) => s.playhead);
  const frames = span.end - span.first;
  const here = Math.min(frames - 1, Math.max(0, playhead - span.first));
  const from = Math.max(0, Math.min(frames - COLUMNS, here - 2));
  const { speeds = [], speed: base = 1 } = clip;
  const set = (next: Speeds, frame: number): void => edit(keySpeeds(clip.id, next), `speeds-${clip.id}-${frame}`);
  const keyAt = (frame: number): Speeds[number] | undefined => speeds.find((key) => key.at === frame);
  const speedAt = (frame: number): number => (span.map ? Math.abs(span.map.speedAt(frame + 0.001) / base) : 1);
  const put = (frame: number, change: Partial<Speeds[number]>): void => {
    const key = keyAt(frame) ?? { at: frame, speed: speedAt(frame), smooth: true };
    // The first key of all leaves what comes before it as it was.
    const begun = speeds.length || frame === 0 ? speeds : [{ at: 0, speed: 1, smooth: false }];
    set([...begun.filter((one) => one.at !== frame), { ...key, ...change }], frame);
  };
  const before = speeds.findLast((key) => key.at < here);
  const after = speeds.find((key) => key.at > here);
  const columns = Array.from({ length: Math.min(COLUMNS, frames - from) }, (_, i) => from + i);
  return (
    <section className="mt-1 overflow-x-auto rounded border border-rope" aria-label={`Speeds along clip ${at + 1}`}>
      <table className="mono border-collapse text-[11px]">
        <thead>
          <tr>
            <th scope="col" className="px-2 text-left font-normal">
              frame
            </th>
            {columns.map((frame) => (
              <th key={frame} scope="col" className="p-0 font-normal">
                <button
                  className={`w-full px-1 ${frame === here && playhead >= span.first && playhead < span.end ? 'bg-sail text-night' : ''}`}
                  aria-label={`Go to frame ${frame} of clip ${at + 1}`}
                  onClick={() => seek(span.first + frame)}
                >
                  {frame}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row" className="px-2 text-left font-normal">
              %
            </th>
            {columns.map((frame) => (
              <td key={frame} className={`p-px ${keyAt(frame) ? 'bg-tide/40' : ''}`}>
                <NumberField
                  label={`Speed at frame ${frame} of clip ${at + 1}, percent`}
                  value={Math.round(speedAt(frame) * 1000) / 10}
                  min={0}
                  max={LIMITS.speed.max * 100}
                  step={5}
                  className="field mono w-11 px-0.5 py-0 text-[11px]"
                  onLeave
                  onValue={(percent) => put(frame, { speed: percent / 100 })}
                />
              </td>
            ))}
          </tr>
          <tr>
            <th scope="row" className="px-2 text-left font-normal">
              way
            </th>
            {columns.map((frame) => {
              const key = keyAt(frame);
              return (
                <td key={frame} className="text-center">
                  {key && (
                    <span className="inline-flex">
                      <button
                        className="px-0.5 text-tide"
                        aria-label={`Way on from frame ${frame}`}
                        aria-pressed={key.smooth}
                        title={key.smooth ? 'Runs smoothly to the next speed' : 'Holds until the next speed'}
                        onClick={() => put(frame, { smooth: !key.smooth })}
                      >
                        {key.smooth ? '~' : '–'}
                      </button>
                      <button
                        className="px-0.5"
                        aria-label={`Remove the speed at frame ${frame}`}
                        onClick={() =>
                          set(
                            speeds.filter((one) => one !== key),
                            frame,
                          )
                        }
                      >
                        ×
                      </button>
                    </span>
                  )}
                </td>
              );
            })}
          </tr>
          <tr>
            <th scope="row" className="px-2 text-left font-normal">
              shows
            </th>
            {columns.map((frame) => (
              <td key={frame} className="text-center">
                {line.sourceFrame(span, span.first + frame)}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
      <div className="flex items-center gap-1 px-1 py-0.5">
        <button
          className="key-quiet"
          aria-label="Speed before"
          disabled={!before}
          onClick={() => before && seek(span.first + before.at)}
        >
          ◂
        </button>
        <button
          className="key-quiet"
          aria-label="Speed after"
          disabled={!after}
          onClick={() => after && seek(span.first + after.at)}
        >
          ▸
        </button>
        <span className="grow">
          {frames} frames
          {speeds.length > 0 && `, ${speeds.length} ${speeds.length === 1 ? 'speed' : 'speeds'}: no ramps`}
        </span>
        {speeds.length > 0 && (
          <button className="key-quiet" onClick={() => edit(keySpeeds(clip.id, []))}>
            Even again
          </button>
        )}
      </div>
    </section>
  );
}
