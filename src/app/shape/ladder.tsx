/** The frame ladder: frames across, parameters down, values in the cells. */
import { useRef, useState } from 'react';
import { dropKey, setEase, setKey, setParam } from '../../core/montage/edits.ts';
import { EASING_NAMES, evaluate, type Envelope, type EasingName } from '../../core/envelopes/envelope.ts';
import type { ParamSpec } from '../../core/accents/effect-spec.ts';
import type { Accent, EffectUse } from '../../core/montage/types.ts';
import { EFFECTS } from '../../effects/index.ts';
import { fps } from '../../core/units/time.ts';
import { scaleFrames } from '../../core/envelopes/envelope.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { seek } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useSession } from '../stores/session.ts';
import { useAudition, useChosenAccent, useShapingFrame } from './audition.ts';

const CELL = 54;

/** Up to three figures that matter. */
const shown = (value: number): string => String(Math.abs(value) >= 100 ? Math.round(value) : Math.round(value * 10) / 10);

export function Ladder() {
  const derived = useDerived();
  const accent = useChosenAccent();
  const frame = useShapingFrame();
  const audition = useAudition(true);
  const playhead = useSession((s) => s.playhead);
  const [all, setAll] = useState(false);
  if (!derived || !accent) return <div className="border-t border-rope bg-deck p-3 text-fog">Choose or make an accent to shape it here.</div>;
  const columns = Array.from({ length: accent.lead + accent.tail + 1 }, (_, i) => i - accent.lead);
  const factor = derived.line.fps / fps(accent.rate);
  const { width, height } = derived.montage.settings;
  return (
    <section aria-label="Frame ladder" className="max-h-[272px] overflow-auto border-t border-rope bg-deck">
      <table className="border-separate border-spacing-0" role="grid" aria-label={`Values of ${accent.name} over its frames`}>
        <thead>
          <tr>
            <th scope="col" className="sticky left-0 z-10 min-w-52 bg-deck px-3 text-left align-bottom caption">
              <button className="key-quiet -ml-1.5" aria-pressed={all} onClick={() => setAll(!all)}>{all ? 'Fewer rows' : 'All rows'}</button>
              <span className="block">frames from the hit</span>
            </th>
            {columns.map((at) => {
              const place = frame === null ? null : frame + scaleFrames(at, factor);
              return (
                <th key={at} scope="col" className="p-px align-bottom" style={{ minWidth: CELL }}>
                  <button className={`block w-full border ${at === 0 ? 'border-lamp' : place === playhead ? 'border-sail' : 'border-transparent'}`} aria-label={`Go to frame ${at} of the accent`} onClick={() => place !== null && seek(place)}>
                    {place !== null && place >= 0 && place < derived.line.count && <FramePicture frame={place} width={108} height={Math.round((108 * height) / width)} plain={false} audition={audition} label={`Frame ${at} with the accent`} />}
                    <span className={`mono block text-[11px] font-normal ${at === 0 ? 'bg-lamp text-night' : 'text-fog'}`}>{at > 0 ? `+${at}` : at}</span>
                  </button>
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {accent.effects.flatMap((use) => {
            const spec = EFFECTS.get(use.effect);
            return spec ? Object.entries(spec.params).filter(([name, p]) => !p.choices && (all || p.identity !== undefined || typeof use.params[name] === 'object')).map(([name, param]) => (
              <LadderRow key={`${use.id}/${name}`} accent={accent} use={use} effect={spec.name} name={name} param={param} columns={columns} />
            )) : [];
          })}
        </tbody>
      </table>
    </section>
  );
}

interface RowProps { accent: Accent; use: EffectUse; effect: string; name: string; param: ParamSpec; columns: readonly number[] }

function LadderRow({ accent, use, effect, name, param, columns }: RowProps) {
  const envelope: Envelope = use.params[name] ?? param.default;
  const keys = typeof envelope === 'number' ? [] : envelope;
  const ends = keys.length > 0 && param.identity !== undefined && (evaluate(envelope, accent.tail) !== param.identity || (accent.lead > 0 && evaluate(envelope, -accent.lead) !== param.identity));
  const clamp = (value: number): number => Math.min(param.max, Math.max(param.min, value));
  const put = (at: number, value: number, group?: string): void => edit(setKey(accent.id, use.id, name, at, clamp(value), param.default), group);
  const quiet = keys.length === 0 && envelope === (param.identity ?? param.default);
  return (
    <tr className={use.on ? '' : 'opacity-40'}>
      <th scope="row" className="sticky left-0 z-10 bg-deck px-3 py-0 text-left font-normal whitespace-nowrap">
        <span className="flex items-center gap-1.5">
          <span className="text-[11px] text-fog">{effect}</span>
          <span className={quiet ? 'text-fog' : 'text-sail'} title={param.doc}>{param.label}</span>
          <span className="text-[11px] text-fog">{param.unit}</span>
          {ends && <span className="text-ember" title="Does not end where it does nothing: the picture will jump.">●</span>}
          <span className="grow" />
          {keys.length > 0 && <button className="key-quiet px-0 text-[11px]" aria-label={`Make ${effect} ${param.label} steady`} title="Remove all keys" onClick={() => edit(setParam(accent.id, use.id, name, param.identity ?? evaluate(envelope, 0)))}>clear</button>}
        </span>
      </th>
      {columns.map((at) => (
        <Cell key={at} at={at} value={evaluate(envelope, at)} ease={keys.find((key) => key.at === at)?.ease ?? null} param={param} shaped={keys.length > 0} label={`${effect} ${param.label} at ${at}`}
          onValue={(value, dragging) => put(at, value, dragging ? `${use.id}/${name}/${at}` : undefined)}
          onDrop={() => edit(dropKey(accent.id, use.id, name, at))}
          onEase={(ease) => edit(setEase(accent.id, use.id, name, at, ease))} />
      ))}
    </tr>
  );
}

interface CellProps {
  at: number; value: number; ease: EasingName | null; param: ParamSpec; label: string;
  /** The parameter has keys somewhere. */
  shaped: boolean;
  onValue(value: number, dragging: boolean): void; onDrop(): void; onEase(ease: EasingName): void;
}

const EASE_MARKS: Record<EasingName, string> = { hold: '▔', linear: '╱', ease: '∿', 'fast out': '⌒', 'slow out': '⌣', 'both slow': 'S' };

/**
 * Drag up or down to change, type a number, Delete removes the key, E goes through the easings.
 * A filled cell holds a key; the fill shows the value between the limits.
 */
function Cell({ at, value, ease, param, label, shaped, onValue, onDrop, onEase }: CellProps) {
  const [typing, setTyping] = useState<string | null>(null);
  const drag = useRef<{ y: number; value: number; moved: boolean } | null>(null);
  const span = Math.min(param.max - param.min, 4 * Math.max(1, Math.abs(param.default - (param.identity ?? 0)), param.max / 8));
  const step = param.unit === 'stops' || span < 20 ? 0.1 : 1;
  const base = param.identity ?? param.min;
  const height = Math.min(1, Math.abs(value - base) / Math.max(1e-6, Math.max(param.max - base, base - param.min) * 0.4));
  const finish = (): void => {
    const number = Number(typing?.replace(',', '.'));
    if (typing !== null && typing.trim() !== '' && Number.isFinite(number)) onValue(number, false);
    setTyping(null);
  };
  const move = (event: React.KeyboardEvent<HTMLTableCellElement>, columns: number, rows: number): void => {
    const row = event.currentTarget.parentElement as HTMLTableRowElement;
    const target = rows === 0
      ? row.cells[event.currentTarget.cellIndex + columns]
      : (row.parentElement as HTMLTableSectionElement).rows[row.sectionRowIndex + rows]?.cells[event.currentTarget.cellIndex];
    target?.focus();
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <td
      role="gridcell" tabIndex={0} aria-label={`${label}: ${shown(value)}${ease ? `, key, ${ease}` : ''}`} data-at={at} data-key={ease ? '' : undefined}
      className={`relative h-6 cursor-ns-resize border-b border-l border-rope p-0 text-center select-none ${at === 0 ? 'bg-lamp/10' : ''}`}
      onPointerDown={(event) => {
        if (event.button !== 0 || typing !== null) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = { y: event.clientY, value, moved: false };
      }}
      onPointerMove={(event) => {
        const from = drag.current;
        if (!from) return;
        const by = Math.round((from.y - event.clientY) / 2) * step * (event.shiftKey ? 0.2 : 1);
        if (by === 0 && !from.moved) return;
        from.moved = true;
        onValue(Math.round((from.value + by) * 100) / 100, true);
      }}
      onPointerUp={() => (drag.current = null)}
      onDoubleClick={() => setTyping(shown(value))}
      onKeyDown={(event) => {
        if (typing !== null || event.ctrlKey || event.metaKey) return;
        if (event.key === 'Delete' || event.key === 'Backspace') onDrop();
        else if (event.key === 'Enter') setTyping(shown(value));
        else if (/^[-0-9.]$/.test(event.key)) setTyping(event.key);
        else if (event.key === 'e' && ease) onEase(EASING_NAMES[(EASING_NAMES.indexOf(ease) + 1) % EASING_NAMES.length]!);
        else if (event.key === '+') onValue(value + step, true);
        else if (event.key === 'ArrowRight') return move(event, 1, 0);
        else if (event.key === 'ArrowLeft') return move(event, -1, 0);
        else if (event.key === 'ArrowUp') return move(event, 0, -1);
        else if (event.key === 'ArrowDown') return move(event, 0, 1);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {shaped && <span aria-hidden className={`absolute inset-x-0 bottom-0 ${ease ? 'bg-tide/45' : 'bg-tide/15'}`} style={{ height: `${height * 100}%` }} />}
      {typing === null ? (
        <span className={`mono relative text-[11px] ${ease ? 'font-semibold text-sail' : 'text-fog'}`}>{shown(value)}</span>
      ) : (
        <input autoFocus className="mono relative w-full bg-night text-center text-[11px]" aria-label={`New value of ${label}`} value={typing} onChange={(event) => setTyping(event.currentTarget.value)} onBlur={finish}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') finish();
            if (event.key === 'Escape') setTyping(null);
          }} />
      )}
      {ease && <span aria-hidden className="absolute top-0 right-0.5 text-[8px] leading-3 text-lamp" title={ease}>{EASE_MARKS[ease]}</span>}
    </td>
  );
}
