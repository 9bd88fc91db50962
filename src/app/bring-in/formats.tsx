/** The montage's own size and rate, and its versions in other shapes. */
import { nanoid } from 'nanoid';
import { Plus, Trash2 } from 'lucide-react';
import { setSettings } from '../../core/document/edits.ts';
import {
  addFormat,
  changeFormat,
  evenPixels,
  LINES,
  removeFormat,
  shapeName,
  SHAPES,
  sizeOf,
  type Fit,
  type Size,
} from '../../core/document/formats.ts';
import { rateLabel, sameRate, STANDARD_RATES } from '../../core/base/time.ts';
import type { Settings } from '../../core/document/types.ts';
import { NumberField } from '../parts/number-field.tsx';
import { useDerived } from '../stores/derived.ts';
import { proposeFocus, withoutFocus } from '../stores/focus.ts';
import { edit, useMontage } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

export const FIT_NAMES: Record<Fit, string> = {
  fit: 'whole, with bars',
  fill: 'filled, cut at the middle',
  focus: 'filled around the focus',
};

/** Shape and lines of a size, with the pixels themselves for all others. */
function SizeFields({ size, label, onSize }: { size: Size; label: string; onSize: (size: Size) => void }) {
  const shape = shapeName(size);
  const lines = Math.min(size.width, size.height);
  const usual = SHAPES.find(({ name }) => name === shape);
  const standard = usual !== undefined && LINES.includes(lines as never);
  return (
    <div className="flex flex-wrap items-center gap-1 text-[12px]">
      <select
        className="field py-0"
        aria-label={`Shape of ${label}`}
        value={usual?.name ?? ''}
        onChange={(event) => {
          const next = SHAPES.find(({ name }) => name === event.currentTarget.value);
          if (next) onSize(sizeOf(next, lines));
        }}
      >
        {!usual && <option value="">own shape</option>}
        {SHAPES.map(({ name }) => (
          <option key={name}>{name}</option>
        ))}
      </select>
      <select
        className="field py-0"
        aria-label={`Lines of ${label}`}
        value={standard ? lines : ''}
        onChange={(event) => onSize(sizeOf(usual ?? size, Number(event.currentTarget.value)))}
      >
        {!standard && <option value="">{lines}p</option>}
        {LINES.map((value) => (
          <option key={value} value={value}>
            {value}p
          </option>
        ))}
      </select>
      <NumberField
        label={`Width of ${label}`}
        className="field mono w-14 px-1 py-0"
        value={size.width}
        min={16}
        max={8192}
        step={2}
        onValue={(width) => onSize({ ...size, width: evenPixels(width) })}
      />
      ×
      <NumberField
        label={`Height of ${label}`}
        className="field mono w-14 px-1 py-0"
        value={size.height}
        min={16}
        max={8192}
        step={2}
        onValue={(height) => onSize({ ...size, height: evenPixels(height) })}
      />
    </div>
  );
}

export function Formats() {
  const montage = useMontage((s) => s.montage)!;
  const derived = useDerived()!;
  const shown = useView((s) => s.format);
  const { settings, formats } = montage;
  const { timing } = settings;
  const around = formats.some(({ fit, fits }) => fit === 'focus' || Object.values(fits).includes('focus'));
  const cut = around || montage.clips.some(({ fit }) => fit === 'focus');
  const missing = withoutFocus(derived);
  const add = (shape: Size): void => {
    const id = nanoid(8);
    const lines = Math.max(720, Math.min(settings.width, settings.height));
    edit(addFormat({ id, name: shapeName(shape), ...sizeOf(shape, lines), fit: 'focus', fits: {} }));
    useView.setState({ format: id });
  };
  const setTiming = (next: Settings['timing']): void => void edit(setSettings({ timing: next }));
  return (
    <section aria-label="Formats" className="flex flex-col gap-2">
      <h2 className="caption">Size, rate, formats</h2>
      <div className="flex flex-col gap-1 rounded-md border border-rope px-3 py-2">
        <SizeFields size={settings} label="the montage" onSize={(size) => edit(setSettings(size), 'montage-size')} />
        <label className="flex items-center justify-between gap-2 text-[12px] text-fog">
          Frames a second
          <select
            className="field py-0"
            aria-label="Frames a second of the montage"
            value={
              timing.mode === 'source' ? 'source' : STANDARD_RATES.findIndex((rate) => sameRate(rate, timing.rate))
            }
            onChange={(event) => {
              const { value } = event.currentTarget;
              setTiming(
                value === 'source' ? { mode: 'source' } : { mode: 'constant', rate: STANDARD_RATES[Number(value)]! },
              );
            }}
          >
            {timing.mode === 'constant' && !STANDARD_RATES.some((rate) => sameRate(rate, timing.rate)) && (
              <option value={-1}>{rateLabel(timing.rate)}</option>
            )}
            {STANDARD_RATES.map((rate, i) =>
              rate.num / rate.den > 23 && rate.num / rate.den < 121 ? (
                <option key={i} value={i}>
                  {rateLabel(rate)}
                </option>
              ) : null,
            )}
            <option value="source">each frame’s own time</option>
          </select>
        </label>
      </div>
      {formats.map((format, i) => (
        <div
          key={format.id}
          data-format={format.id}
          className={`flex flex-col gap-1 rounded-md border px-3 py-2 ${shown === format.id ? 'border-lamp' : 'border-rope'}`}
        >
          <div className="flex items-center gap-1">
            <input
              className="field min-w-0 grow py-0 text-[12px]"
              aria-label={`Name of format ${i + 1}`}
              value={format.name}
              maxLength={200}
              onChange={(event) =>
                edit(changeFormat(format.id, { name: event.currentTarget.value }), `format-${format.id}`)
              }
            />
            <button
              className="key px-1.5 py-0 text-[12px]"
              aria-pressed={shown === format.id}
              onClick={() => useView.setState({ format: shown === format.id ? null : format.id })}
            >
              Look
            </button>
            <button
              className="key-quiet"
              aria-label={`Remove format ${i + 1}`}
              onClick={() => {
                if (shown === format.id) useView.setState({ format: null });
                edit(removeFormat(format.id));
              }}
            >
              <Trash2 size={13} />
            </button>
          </div>
          <SizeFields
            size={format}
            label={`format ${i + 1}`}
            onSize={(size) => edit(changeFormat(format.id, size), `format-size-${format.id}`)}
          />
          <label className="flex items-center justify-between gap-2 text-[12px] text-fog">
            Clips of another shape
            <select
              className="field py-0"
              aria-label={`Framing of format ${i + 1}`}
              value={format.fit}
              onChange={(event) => edit(changeFormat(format.id, { fit: event.currentTarget.value as Fit, fits: {} }))}
            >
              {Object.entries(FIT_NAMES).map(([fit, name]) => (
                <option key={fit} value={fit}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        </div>
      ))}
      <div className="flex flex-wrap items-center gap-1 text-[12px] text-fog">
        another shape
        {SHAPES.slice(0, 4)
          .filter(({ name }) => name !== shapeName(settings) && !formats.some((format) => shapeName(format) === name))
          .map((shape) => (
            <button
              key={shape.name}
              className="key gap-0.5 px-1 py-0"
              aria-label={`Add the format ${shape.name}`}
              onClick={() => add(shape)}
            >
              <Plus size={12} /> {shape.name}
            </button>
          ))}
      </div>
      {cut && (
        <div className="flex flex-col gap-1 text-[12px] text-fog">
          <label className="flex items-center justify-between gap-2">
            Framing moves at most
            <span className="flex items-center gap-1">
              <NumberField
                label="Largest speed of the framing, percent of the picture a second"
                value={Math.round(settings.framingSpeed * 100)}
                min={1}
                max={1000}
                step={5}
                onValue={(percent) => edit(setSettings({ framingSpeed: percent / 100 }), 'framing-speed')}
              />
              % of the picture a second
            </span>
          </label>
          {missing.length > 0 && (
            <div className="flex items-center gap-2">
              <span className="grow">
                {missing.length} kept {missing.length === 1 ? 'hit has' : 'hits have'} no focus.
              </span>
              <button className="key px-1.5 py-0" onClick={() => void proposeFocus(missing)}>
                Propose
              </button>
            </div>
          )}
        </div>
      )}
    </section>
  );
}
