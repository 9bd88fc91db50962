/** The colour of an effect, chosen by eye or as a number; where it is shaped over frames, on the chosen frame. */
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { HexColorInput, HexColorPicker } from 'react-colorful';
import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { evaluate } from '../../core/accents/envelope.ts';
import { keyedOn } from '../../core/accents/prepare.ts';
import { together } from '../../core/document/edits.ts';
import { envelopeOf, replaced } from '../../core/document/params.ts';
import type { EffectUse } from '../../core/document/types.ts';
import { edit } from '../stores/montage.ts';
import { changeRow, usePlacedAccent, useShapedFrame } from './shaping.ts';

export function ColourField({ use, spec }: { use: EffectUse; spec: EffectSpec }) {
  const shaped = usePlacedAccent();
  const at = useShapedFrame();
  if (!shaped) return null;
  const { accent, places } = shaped;
  const parts = Object.entries(spec.params).filter(([, { colour }]) => colour !== undefined);
  const hex = `#${parts
    .map(([name, param]) => {
      const value = evaluate(replaced(envelopeOf(use.params[name] ?? param.default), places.of), at);
      return Math.round(Math.min(100, Math.max(0, value)) * 2.55)
        .toString(16)
        .padStart(2, '0');
    })
    .join('')}`;
  const set = (to: string): void => {
    if (!/^#[0-9a-f]{6}$/i.test(to) || to.toLowerCase() === hex) return;
    edit(
      together(
        parts.map(([param, paramSpec], i) => {
          const value = Math.round(Number.parseInt(to.slice(1 + 2 * i, 3 + 2 * i), 16) / 0.0255) / 100;
          return changeRow(accent.id, { use: use.id, param, spec: paramSpec }, (envelope) =>
            typeof envelope === 'number' ? value : keyedOn(envelope, places, at, value),
          );
        }),
      ),
      `colour-${use.id}`,
    );
  };
  return (
    <Popover className="relative mt-1">
      <PopoverButton className="key py-0.5" aria-label={`Colour of ${spec.name}`}>
        <span aria-hidden className="size-4 rounded-sm border border-rope" style={{ background: hex }} />
        <span className="mono text-[12px]">{hex}</span>
      </PopoverButton>
      <PopoverPanel anchor="bottom start" className="pop flex flex-col gap-2 p-3">
        <HexColorPicker color={hex} onChange={set} />
        <label className="flex items-center gap-2 text-[12px] text-fog">
          Number
          <HexColorInput className="field mono w-24 py-0.5" prefixed color={hex} onChange={set} />
        </label>
      </PopoverPanel>
    </Popover>
  );
}
