/** The sheet: hits across, rules down; a filled cell is a placement. */
import { override } from '../../core/document/edits.ts';
import type { Placement } from '../../core/accents/placements.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { hitLook } from '../parts/kinds.ts';
import { choose } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

const MOST_COLUMNS = 120;

export function Sheet() {
  const derived = useDerived();
  const chosen = useView((s) => s.chosen);
  if (!derived) return null;
  const { shown, planner, montage } = derived;
  const kept = shown.filter((o) => o.hit.state === 'kept' || o.hit.state === 'made');
  const at = Math.max(
    0,
    kept.findIndex((o) => o.key === chosen),
  );
  const from = Math.max(0, Math.min(at - MOST_COLUMNS / 2, kept.length - MOST_COLUMNS));
  const columns = kept.slice(from, from + MOST_COLUMNS);
  const byCell = new Map<string, Placement>(planner.placements.map((p) => [`${p.rule.id}/${p.occurrence.key}`, p]));
  const { width, height } = montage.settings;
  return (
    <section
      aria-label="Sheet of hits and rules"
      className="max-h-[240px] shrink-0 overflow-auto border-t border-rope bg-deck"
    >
      <table className="border-separate border-spacing-0">
        <thead>
          <tr>
            <th scope="col" className="sticky left-0 z-10 min-w-40 bg-deck px-3 text-left align-bottom caption">
              kept hits
            </th>
            {columns.map((o) => (
              <th key={o.key} scope="col" className="min-w-[88px] p-px align-bottom">
                <button
                  className={`block w-full border ${o.key === chosen ? 'border-sail' : 'border-transparent'}`}
                  aria-label={`${hitLook(o.hit, montage.families).name} at frame ${o.frame}`}
                  onClick={() => choose(o)}
                >
                  <FramePicture
                    frame={o.frame}
                    width={168}
                    height={Math.round((168 * height) / width)}
                    plain={false}
                    label={`Frame ${o.frame} with its accents`}
                  />
                  <span className="flex items-center justify-center gap-1 text-[11px] font-normal text-fog">
                    <span
                      aria-hidden
                      className="size-2 rounded-full"
                      style={{ background: hitLook(o.hit, montage.families).colour }}
                    />
                    {hitLook(o.hit, montage.families).name}
                  </span>
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {montage.rules.map((rule) => (
            <tr key={rule.id} className={rule.on ? '' : 'opacity-40'}>
              <th scope="row" className="sticky left-0 z-10 bg-deck px-3 py-1 text-left font-medium whitespace-nowrap">
                {montage.accents.find((a) => a.id === rule.accent)?.name ?? 'lost accent'}
              </th>
              {columns.map((o) => {
                const placement = byCell.get(`${rule.id}/${o.key}`);
                return (
                  <td key={o.key} className="border-b border-l border-rope p-0.5">
                    {placement && (
                      <button
                        className={`mono block w-full rounded px-1 py-1 text-[11px] ${placement.muted ? 'border border-rope text-fog line-through' : 'text-night'}`}
                        style={
                          placement.muted
                            ? {}
                            : {
                                background: `color-mix(in srgb, #58c2bc ${Math.round(35 + 65 * Math.min(1, placement.intensity))}%, #131e24)`,
                              }
                        }
                        aria-pressed={!placement.muted}
                        aria-label={`${placement.muted ? 'Unmute' : 'Mute'} on the hit at frame ${o.frame}`}
                        onClick={() => edit(override(placement.key, { mute: placement.muted ? undefined : true }))}
                      >
                        {Math.round(placement.intensity * 100)} %
                      </button>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {kept.length === 0 && <p className="p-3 text-fog">Keep some hits first: rules lay accents on kept hits only.</p>}
    </section>
  );
}
