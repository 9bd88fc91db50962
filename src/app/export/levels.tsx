/** How loud the montage is: measured as a whole and lane by lane, brought to a target, its peaks held under a ceiling; as WAV. */
import { useState } from 'react';
import { setSettings } from '../../core/document/edits.ts';
import { DEFAULT_MASTER, LANES, type Lane } from '../../core/document/types.ts';
import type { WaveOptions } from '../../engine/index.ts';
import { Choice } from '../parts/choice.tsx';
import { NumberField } from '../parts/number-field.tsx';
import { useDerived } from '../stores/derived.ts';
import { bringTo, exportWave, measureLevels, useLevels } from '../stores/levels.ts';
import { edit } from '../stores/montage.ts';

const LANE_NAMES: Record<'mix' | Lane, string> = {
  mix: 'the mix',
  clips: 'the clips',
  music: 'the music',
  accents: 'the accents',
};
const WHATS = ['mix', ...LANES] as const;
const BITS = { '16': '16 bits', '24': '24 bits', '32': '32 bits, floats' } as const;
const RATES = { '48000': '48 kHz', '44100': '44.1 kHz' } as const;
/** Usual targets: of video platforms, of podcasts, and of EBU R 128; the first two are common practice, no source. */
const TARGETS = [-14, -16, -23] as const;

const shown = (value: number): string => (Number.isFinite(value) ? value.toFixed(1) : '–');

export function LevelsPanel() {
  const { montage } = useDerived()!;
  const { levels, of, busy } = useLevels();
  const master = montage.settings.master ?? DEFAULT_MASTER;
  const [target, setTarget] = useState(master.target ?? -14);
  const [what, setWhat] = useState<WaveOptions['what']>('mix');
  const [bits, setBits] = useState<keyof typeof BITS>('24');
  const [rate, setRate] = useState<keyof typeof RATES>('48000');
  const set = (change: Partial<typeof master>): void =>
    edit(setSettings({ master: { ...master, ...change } }), 'master');
  const rows = levels
    ? ([['mix', levels.mix], ...LANES.flatMap((lane) => (levels.lanes[lane] ? [[lane, levels.lanes[lane]]] : []))] as [
        'mix' | Lane,
        typeof levels.mix,
      ][])
    : [];
  return (
    <section className="flex flex-col gap-2 text-[12px] text-fog" aria-label="Levels">
      <div className="flex items-center gap-2">
        <h3 className="caption grow">Levels</h3>
        <button className="key px-1.5 py-0.5" disabled={busy} onClick={() => void measureLevels()}>
          {busy ? 'Listening…' : 'Measure'}
        </button>
      </div>
      {levels && (
        <table className={`mono w-full text-[11px] ${of === montage ? '' : 'opacity-50'}`} data-levels>
          <thead>
            <tr className="text-left">
              <th className="font-normal">LUFS</th>
              <th className="font-normal" title="Integrated loudness, gated">
                whole
              </th>
              <th className="font-normal" title="Loudest three seconds">
                3 s
              </th>
              <th className="font-normal" title="Loudest 0.4 seconds">
                0.4 s
              </th>
              <th className="font-normal" title="Loudness range, units">
                range
              </th>
              <th className="font-normal" title="True peak, dB below full scale">
                peak
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map(([lane, { integrated, shortTerm, momentary, range, truePeak }]) => (
              <tr key={lane} data-lane={lane}>
                <th scope="row" className="text-left font-normal">
                  {LANE_NAMES[lane]}
                </th>
                <td>{shown(integrated)}</td>
                <td>{shown(shortTerm)}</td>
                <td>{shown(momentary)}</td>
                <td>{shown(range)}</td>
                <td className={truePeak > master.ceiling + 0.1 ? 'text-ember' : ''}>{shown(truePeak)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {levels && (
        <p role="status">
          {of !== montage && 'The montage has changed since. '}
          {levels.limited.most > 0
            ? `The mix goes over its ceiling: up to ${levels.limited.most.toFixed(1)} dB are taken off, in ${levels.limited.seconds.toFixed(2)} s of it.`
            : 'Nothing has to be taken off its peaks.'}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-1">
        Bring to
        {TARGETS.map((value) => (
          <button
            key={value}
            className="key px-1.5 py-0"
            aria-pressed={target === value}
            onClick={() => setTarget(value)}
          >
            {value}
          </button>
        ))}
        <NumberField
          label="Loudness wanted, LUFS"
          value={target}
          min={-50}
          max={0}
          step={0.5}
          className="field mono w-16 px-1 py-0 text-[12px]"
          onValue={setTarget}
        />
        LUFS
        <button className="key px-1.5 py-0" disabled={busy} onClick={() => void bringTo(target)}>
          Do it
        </button>
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1">
          gain
          <NumberField
            label="Gain of the mix, decibels"
            value={master.gain}
            min={-60}
            max={60}
            step={0.5}
            className="field mono w-16 px-1 py-0 text-[12px]"
            onValue={(gain) => set({ gain, target: null })}
          />
          dB
        </label>
        <label className="flex items-center gap-1">
          no peak over
          <NumberField
            label="Ceiling, decibels"
            value={master.ceiling}
            min={-24}
            max={0}
            step={0.5}
            className="field mono w-14 px-1 py-0 text-[12px]"
            onValue={(ceiling) => set({ ceiling })}
          />
          dBTP
        </label>
      </div>
      <div className="flex flex-wrap items-center gap-1">
        <Choice
          label="What the WAV holds"
          className="field py-0"
          value={what}
          options={WHATS}
          names={LANE_NAMES}
          onValue={setWhat}
        />
        <Choice
          label="Bits of the WAV"
          className="field py-0"
          value={bits}
          options={['16', '24', '32']}
          names={BITS}
          onValue={setBits}
        />
        <Choice
          label="Rate of the WAV"
          className="field py-0"
          value={rate}
          options={['48000', '44100']}
          names={RATES}
          onValue={setRate}
        />
        <button
          className="key px-1.5 py-0"
          disabled={busy}
          onClick={() =>
            void exportWave({
              what,
              bits: Number(bits) as WaveOptions['bits'],
              rate: Number(rate) as WaveOptions['rate'],
            })
          }
        >
          Save WAV
        </button>
      </div>
    </section>
  );
}
