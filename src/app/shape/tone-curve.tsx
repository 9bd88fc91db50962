/** Tone curves drawn as curves: each point is dragged up or down, or moved by the arrow keys. */
import { useRef, useState } from 'react';
import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { evaluate } from '../../core/accents/envelope.ts';
import { keyedOn } from '../../core/accents/prepare.ts';
import { envelopeOf, replaced } from '../../core/document/params.ts';
import type { EffectUse } from '../../core/document/types.ts';
import { edit } from '../stores/montage.ts';
import { stepKeys } from '../parts/step-keys.ts';
import { changeRow, usePlacedAccent, useShapedFrame } from './shaping.ts';

/** Pixels of the drawing, and of the room around it for points past black and white. */
const SIDE = 200;
const PAD = 14;
const INKS: Record<string, string> = { All: '#e8eef0', Red: '#f2766b', Green: '#7fcf86', Blue: '#7aa7f5' };

export function ToneCurve({ use, spec }: { use: EffectUse; spec: EffectSpec }) {
  const shaped = usePlacedAccent();
  const at = useShapedFrame();
  const [chosen, setChosen] = useState(0);
  const svg = useRef<SVGSVGElement>(null);
  const { tone } = spec;
  if (!shaped || !tone) return null;
  const { accent, places } = shaped;
  const valueOf = (param: string): number =>
    evaluate(replaced(envelopeOf(use.params[param] ?? spec.params[param]!.default), places.of), at);
  const x = (v: number): number => PAD + v * (SIDE - 2 * PAD);
  const y = (v: number): number => SIDE - PAD - v * (SIDE - 2 * PAD);
  const set = (param: string, value: number): void => {
    const { min, max } = spec.params[param]!;
    const within = Math.round(Math.min(max, Math.max(min, value)) * 10) / 10;
    edit(
      changeRow(accent.id, { use: use.id, param, spec: spec.params[param]! }, (envelope) =>
        typeof envelope === 'number' ? within : keyedOn(envelope, places, at, within),
      ),
      `tone-${use.id}-${param}`,
    );
  };
  const path = (params: readonly string[]): string => {
    const points = params.map((param) => valueOf(param) / 100);
    return Array.from(
      { length: 51 },
      (_, i) => `${i ? 'L' : 'M'}${x(i / 50).toFixed(1)} ${y(tone.at(i / 50, points)).toFixed(1)}`,
    ).join(' ');
  };
  const { params, name } = tone.curves[chosen]!;
  return (
    <div className="mt-1 flex flex-col gap-1" role="group" aria-label={`Tone curves of ${spec.name}`}>
      <div className="flex gap-1">
        {tone.curves.map((curve, i) => (
          <button key={curve.name} className="key py-0" aria-pressed={i === chosen} onClick={() => setChosen(i)}>
            <span aria-hidden className="size-2 rounded-full" style={{ background: INKS[curve.name] }} />
            {curve.name}
          </button>
        ))}
      </div>
      <svg ref={svg} viewBox={`0 0 ${SIDE} ${SIDE}`} className="w-full max-w-64 touch-none rounded-md bg-night">
        <path
          d={[0, 0.25, 0.5, 0.75, 1].map((v) => `M${x(v)} ${y(0)}V${y(1)}M${x(0)} ${y(v)}H${x(1)}`).join('')}
          className="stroke-rope"
        />
        {tone.curves.map((curve, i) => (
          <path
            key={curve.name}
            d={path(curve.params)}
            fill="none"
            stroke={INKS[curve.name]}
            strokeWidth={i === chosen ? 2 : 1}
            opacity={i === chosen ? 1 : 0.4}
          />
        ))}
        {params.map((param, i) => (
          <circle
            key={param}
            cx={x(i / (params.length - 1))}
            cy={y(valueOf(param) / 100)}
            r={6}
            fill={INKS[name]}
            className="cursor-ns-resize"
            role="slider"
            tabIndex={0}
            aria-label={spec.params[param]!.label}
            aria-valuemin={spec.params[param]!.min}
            aria-valuemax={spec.params[param]!.max}
            aria-valuenow={Math.round(valueOf(param) * 10) / 10}
            onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
            onPointerMove={(event) => {
              if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
              const box = svg.current!.getBoundingClientRect();
              const up = (SIDE - PAD - ((event.clientY - box.top) * SIDE) / box.height) / (SIDE - 2 * PAD);
              set(param, up * 100);
            }}
            onDoubleClick={() => set(param, spec.params[param]!.default)}
            onKeyDown={stepKeys({ ArrowUp: 1, ArrowDown: -1 }, (by) => set(param, valueOf(param) + by))}
          />
        ))}
      </svg>
    </div>
  );
}
