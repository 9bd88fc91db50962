/** The way through the work: five stages, each with what there is or what is left at it. */
import { ofAccents } from '../../core/document/words.ts';
import { useMemo } from 'react';
import { NavLink } from 'react-router';
import { carries } from '../../core/document/hits.ts';
import { useDerived } from '../stores/derived.ts';
import { useMontage } from '../stores/montage.ts';
import { useRestedDerived } from '../stores/rested.ts';
import { STATIONS } from './stations.ts';
import { useExport } from '../stores/exporting.ts';

type Station = (typeof STATIONS)[number]['id'];

export function Way() {
  const derived = useDerived()!;
  const saved = useMontage((s) => s.montage);
  const exported = useExport((s) => (s.state.phase === 'done' && s.state.of === saved ? 'done' : s.state.phase));
  const { montage, shown, everywhere } = derived;
  const rested = useRestedDerived();
  const left = shown.filter(({ hit }) => hit.state === 'found').length;
  const kept = everywhere.filter(({ hit }) => carries(hit) && hit.kind !== 'join').length;
  const placed = useMemo(() => (rested?.planner.placements ?? []).filter(({ muted }) => !muted).length, [rested]);
  const of = (count: number, what: string): readonly [string, string] => [
    String(count),
    count === 1 ? what : `${what}s`,
  ];
  const told: Record<Station, readonly [string, string]> = {
    'bring-in': of(montage.sources.filter((source) => !ofAccents(source)).length, 'source'),
    check: left ? [String(left), 'to check'] : [String(kept), 'kept'],
    shape: of(montage.accents.length, 'accent'),
    spread: [String(placed), 'placed'],
    export:
      exported === 'running'
        ? ['…', 'writing']
        : exported === 'done'
          ? ['✓', 'written']
          : [String(Math.round(derived.line.duration)), 'seconds'],
  };
  return (
    <nav aria-label="Stations" className="grid grid-cols-5 border-b border-l border-rope bg-night">
      {STATIONS.map(({ id, name }) => (
        <NavLink
          key={id}
          to={`/montage/${montage.id}/${id}`}
          aria-label={name}
          title={`${name}: ${told[id].join(' ')}`}
          className={({ isActive }) =>
            `flex flex-col items-center border-t-2 px-1 pt-1 pb-1.5 leading-tight ${isActive ? 'border-lamp bg-deck text-sail' : 'border-transparent text-fog hover:text-sail'}`
          }
        >
          <span className="text-[13px] font-semibold">{name}</span>
          <span className="truncate text-[10.5px] text-fog" data-told={id}>
            <b className={`mono ${id === 'check' && left ? 'text-lamp' : 'text-sail'}`}>{told[id][0]}</b> {told[id][1]}
          </span>
        </NavLink>
      ))}
    </nav>
  );
}
