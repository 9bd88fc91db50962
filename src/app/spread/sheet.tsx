/** The sheet: hits across, rules down; a filled cell is a placement, an empty one takes an accent by hand. */
import { useMemo, useState, type ReactNode } from 'react';
import { Hand } from 'lucide-react';
import type { Placement } from '../../core/accents/placements.ts';
import { carries } from '../../core/document/hits.ts';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { hitLook } from '../parts/kinds.ts';
import { randomSeed } from '../parts/seed.ts';
import { choose } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { useRestedDerived } from '../stores/rested.ts';
import { ACCENT_TYPE, changePlacements, copyPlacements, dropPlacements, layOn, setOn } from '../stores/laying.ts';
import { useView } from '../stores/view.ts';

const MOST_COLUMNS = 120;

/** Cells: what they all are, an empty one, one that holds a placement, and one whose placement is muted. */
const CELL = 'w-full rounded px-1 py-1 text-[11px]';
const EMPTY = `${CELL} block text-transparent hover:bg-plank hover:text-fog focus-visible:text-fog`;
const FILLED = `${CELL} mono flex items-center justify-center gap-0.5`;
const MUTED = 'border border-rope text-fog line-through';

interface Line {
  readonly id: string;
  readonly name: string;
  /** What an empty cell takes. */
  readonly accent: string;
  readonly on: boolean;
}

export function Sheet() {
  const derived = useRestedDerived();
  const chosen = useView((s) => s.chosen);
  /** Placements that are picked, and hits that are ticked, by their keys. */
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const placements = derived?.planner.placements;
  const montage = derived?.montage;
  const lines = useMemo((): Line[] => {
    if (!montage) return [];
    const nameOf = (id: string): string => montage.accents.find((a) => a.id === id)?.name ?? 'lost accent';
    const rules = montage.rules.map(({ id, accents, on }) => ({
      id,
      name: accents.map(({ accent }) => nameOf(accent)).join(' / '),
      accent: accents[0]!.accent,
      on,
    }));
    // What was laid by hand stands in the line of a rule that has its accent, else in one of its own.
    const covered = new Set(montage.rules.flatMap(({ accents }) => accents.map(({ accent }) => accent)));
    const own = [...new Set(montage.byHand.map(({ accent }) => accent))].filter((id) => !covered.has(id));
    return [...rules, ...own.map((id) => ({ id: `hand:${id}`, name: nameOf(id), accent: id, on: true }))];
  }, [montage]);
  const shown = derived?.shown;
  const everywhere = derived?.everywhere;
  const kept = useMemo(() => {
    // What an accent lies on is shown, whether its kind is or not.
    const seen = new Set([...(shown ?? []), ...(placements ?? []).map((p) => p.occurrence)].map(({ key }) => key));
    return (everywhere ?? []).filter(({ key, hit }) => carries(hit) && seen.has(key));
  }, [shown, everywhere, placements]);
  const at = Math.max(
    0,
    kept.findIndex((o) => o.key === chosen),
  );
  const from = Math.max(0, Math.min(at - MOST_COLUMNS / 2, kept.length - MOST_COLUMNS));
  const columns = useMemo(() => kept.slice(from, from + MOST_COLUMNS), [kept, from]);
  const byCell = useMemo(() => {
    const lineOf = (p: Placement): string | undefined =>
      p.rule?.id ??
      montage?.rules.find(({ accents }) => accents.some(({ accent }) => accent === p.accent.accent.id))?.id ??
      `hand:${p.accent.accent.id}`;
    const seen = new Set(columns.map(({ key }) => key));
    const cells = new Map<string, Placement[]>();
    for (const p of placements ?? []) {
      if (!seen.has(p.occurrence.key)) continue;
      const key = `${lineOf(p)}/${p.occurrence.key}`;
      const cell = cells.get(key);
      if (cell) cell.push(p);
      else cells.set(key, [p]);
    }
    return cells;
  }, [placements, columns, montage?.rules]);
  if (!derived || !montage || !placements) return null;
  const { width, height } = montage.settings;
  const toggled = (set: ReadonlySet<string>, key: string): Set<string> => {
    const next = new Set(set);
    if (!next.delete(key)) next.add(key);
    return next;
  };
  const press = (event: React.MouseEvent, placement: Placement): void => {
    if (event.ctrlKey || event.metaKey || event.shiftKey) return setPicked(toggled(picked, placement.key));
    changePlacements([placement], ({ muted }) => ({ mute: muted ? undefined : true }));
  };
  const mine = placements.filter(({ key }) => picked.has(key));
  const here = kept.find((o) => o.key === chosen);
  const others = kept.filter((o) => ticked.has(o.key));
  return (
    <section
      aria-label="Sheet of hits and rules"
      className="relative max-h-[240px] shrink-0 overflow-auto border-t border-rope bg-deck"
    >
      {mine.length > 0 && <Picked list={mine} onClear={() => setPicked(new Set())} />}
      {mine.length === 0 && others.length > 0 && (
        <Bar>
          <b>{others.length}</b> {others.length === 1 ? 'hit is' : 'hits are'} ticked
          <button
            className="key py-0"
            disabled={!here}
            title="Lays by hand on the ticked hits what lies on the chosen one"
            onClick={() => here && copyPlacements(here, others)}
          >
            Lay the chosen hit’s accents on {others.length === 1 ? 'it' : 'them'}
          </button>
          <button
            className="key py-0"
            onClick={() =>
              setPicked(new Set(placements.filter((p) => ticked.has(p.occurrence.key)).map(({ key }) => key)))
            }
          >
            Pick their cells
          </button>
          <button className="key-quiet py-0" onClick={() => setTicked(new Set())}>
            Untick
          </button>
        </Bar>
      )}
      <table className="border-separate border-spacing-0" aria-colcount={kept.length + 1}>
        <thead>
          <tr>
            <th scope="col" className="sticky left-0 z-10 min-w-40 bg-deck px-3 text-left align-bottom caption">
              kept hits
            </th>
            {columns.map((o, i) => (
              <HitHead
                key={o.key}
                column={from + i + 2}
                occurrence={o}
                chosen={o.key === chosen}
                ticked={ticked.has(o.key)}
                onTick={() => setTicked(toggled(ticked, o.key))}
                size={[168, Math.round((168 * height) / width)]}
              />
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.id} className={line.on ? '' : 'opacity-40'}>
              <th scope="row" className="sticky left-0 z-10 max-w-56 truncate bg-deck px-3 py-1 text-left font-medium">
                {line.name}
              </th>
              {columns.map((o, i) => {
                const cell = byCell.get(`${line.id}/${o.key}`) ?? [];
                return (
                  <td key={o.key} aria-colindex={from + i + 2} className="border-b border-l border-rope p-0.5">
                    {cell.map((placement) => (
                      <Cell
                        key={placement.key}
                        placement={placement}
                        frame={o.frame}
                        picked={picked.has(placement.key)}
                        onPress={(event) => press(event, placement)}
                      />
                    ))}
                    {cell.length === 0 && (
                      <button
                        className={EMPTY}
                        aria-label={`Lay ${line.name} by hand on the hit at frame ${o.frame}`}
                        title="Lays the accent on this hit by hand"
                        onClick={() => layOn(line.accent, o)}
                      >
                        +
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

function HitHead({
  occurrence: o,
  column,
  chosen,
  ticked,
  onTick,
  size: [width, height],
}: {
  occurrence: Occurrence;
  /** Its place in the whole sheet, from 1 on, of which only a part is drawn. */
  column: number;
  chosen: boolean;
  ticked: boolean;
  onTick: () => void;
  size: readonly [number, number];
}) {
  const { families } = useDerived()!.montage;
  const look = hitLook(o.hit, families);
  return (
    <th
      scope="col"
      aria-colindex={column}
      className="min-w-[88px] p-px align-bottom"
      onDragOver={(event) => event.dataTransfer.types.includes(ACCENT_TYPE) && event.preventDefault()}
      onDrop={(event) => {
        const accent = event.dataTransfer.getData(ACCENT_TYPE);
        if (accent) layOn(accent, o);
      }}
    >
      <button
        className={`block w-full border ${chosen ? 'border-sail' : 'border-transparent'}`}
        aria-label={`${look.name} at frame ${o.frame}`}
        onClick={() => choose(o)}
      >
        <FramePicture
          frame={o.frame}
          {...{ width, height }}
          plain={false}
          label={`Frame ${o.frame} with its accents`}
        />
      </button>
      <label className="flex items-center justify-center gap-1 text-[11px] font-normal text-fog">
        <input
          type="checkbox"
          className="accent-tide"
          aria-label={`Tick the hit at frame ${o.frame}`}
          title="Ticked hits take what lies on the chosen one"
          checked={ticked}
          onChange={onTick}
        />
        <span aria-hidden className="size-2 rounded-full" style={{ background: look.colour }} />
        {look.name}
      </label>
    </th>
  );
}

function Cell({
  placement,
  frame,
  picked,
  onPress,
}: {
  placement: Placement;
  frame: number;
  picked: boolean;
  onPress: (event: React.MouseEvent) => void;
}) {
  const { muted, intensity, hand } = placement;
  const share = Math.round(35 + 65 * Math.min(1, intensity));
  return (
    <button
      className={`${FILLED} ${muted ? MUTED : 'text-night'} ${picked ? 'outline-2 outline-sail' : ''}`}
      style={muted ? {} : { background: `color-mix(in srgb, ${hand ? '#f2a541' : '#58c2bc'} ${share}%, #131e24)` }}
      aria-pressed={!muted}
      data-hand={hand ? '' : undefined}
      data-picked={picked || undefined}
      title="Press: mute. Ctrl and press: pick several, and set them at once."
      aria-label={`${muted ? 'Unmute' : 'Mute'} on the hit at frame ${frame}`}
      onClick={onPress}
    >
      {hand && <Hand size={10} aria-label="by hand" />}
      {Math.round(intensity * 100)} %
    </button>
  );
}

function Bar({ children }: { children: ReactNode }) {
  return (
    <div className="sticky top-0 left-0 z-20 flex items-center gap-2 border-b border-rope bg-plank px-3 py-1 text-[12px]">
      {children}
    </div>
  );
}

/** All that is picked, set at once. */
function Picked({ list, onClear }: { list: readonly Placement[]; onClear: () => void }) {
  const { montage } = useDerived()!;
  const intensity = list.reduce((sum, p) => sum + (setOn(p, montage).intensity ?? p.intensity), 0) / list.length;
  const nudge = (by: number): void =>
    changePlacements(list, (p) => ({ nudge: (setOn(p, montage).nudge ?? 0) + by || undefined }));
  const all = list.every(({ muted }) => muted);
  return (
    <Bar>
      <b>{list.length}</b> picked
      <label className="flex items-center gap-1">
        intensity
        <input
          className="range w-24"
          type="range"
          min={0}
          max={2}
          step={0.05}
          aria-label="Intensity of all that is picked"
          value={intensity}
          onChange={(event) => {
            const value = Number(event.currentTarget.value);
            changePlacements(list, () => ({ intensity: value }), 'picked-intensity');
          }}
        />
        <span className="mono w-10">{Math.round(intensity * 100)} %</span>
      </label>
      <button className="key px-1.5 py-0" aria-label="All one frame earlier" onClick={() => nudge(-1)}>
        −1 f
      </button>
      <button className="key px-1.5 py-0" aria-label="All one frame later" onClick={() => nudge(1)}>
        +1 f
      </button>
      <button className="key px-1.5 py-0" onClick={() => changePlacements(list, () => ({ seed: randomSeed() }))}>
        Other seeds
      </button>
      <button
        className="key px-1.5 py-0"
        aria-pressed={all}
        onClick={() => changePlacements(list, () => ({ mute: all ? undefined : true }))}
      >
        Mute
      </button>
      <button
        className="key px-1.5 py-0"
        title="Removes what was laid by hand, mutes the rest"
        onClick={() => {
          dropPlacements(list);
          onClear();
        }}
      >
        Remove
      </button>
      <button className="key-quiet py-0" onClick={onClear}>
        Done
      </button>
    </Bar>
  );
}
