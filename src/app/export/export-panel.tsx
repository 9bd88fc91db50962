/** Export: size, rate and sound, then one file. */
import { useState } from 'react';
import { Download } from 'lucide-react';
import { even } from '../../core/document/edits.ts';
import { STANDARD_RATES, rateLabel, sameRate } from '../../core/base/time.ts';
import type { Timing } from '../../core/document/types.ts';
import { damageSentence, type ExportOptions } from '../../engine/index.ts';
import { jobs } from '../stores/jobs.ts';
import { useDerived } from '../stores/derived.ts';
import { fileName, startExport, useExport } from '../stores/exporting.ts';

const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;

export function ExportPanel() {
  const derived = useDerived()!;
  const state = useExport((s) => s.state);
  const { montage, line } = derived;
  const source = montage.sources.find((s) => s.id === montage.clips[0]?.source)?.video;
  const variable = montage.clips.some((clip) => montage.sources.find((s) => s.id === clip.source)?.video?.variable);
  const [size, setSize] = useState<'source' | '720'>('source');
  const [rate, setRate] = useState<string>(variable ? 'source' : 'montage');
  const [sound, setSound] = useState<ExportOptions['sound']>('aac');
  const whole = source
    ? { width: even(source.width), height: even(source.height) }
    : { width: montage.settings.width, height: montage.settings.height };
  const rounded = source && (whole.width !== source.width || whole.height !== source.height);
  const pixels = size === 'source' ? whole : { width: 1280, height: 720 };
  const timing: Timing =
    rate === 'source'
      ? { mode: 'source' }
      : rate === 'montage'
        ? montage.settings.timing
        : { mode: 'constant', rate: STANDARD_RATES[Number(rate)]! };
  const options: ExportOptions = { ...pixels, timing, sound };
  const montageRate = montage.settings.timing.mode === 'constant' ? montage.settings.timing.rate : line.rate;
  const running = state.phase === 'running';
  /** The finished file, while the montage is as it was exported. */
  const current = state.phase === 'done' && state.of === montage ? state : null;
  const choosePlace = async (): Promise<void> => {
    try {
      const handle = await window.showSaveFilePicker({
        suggestedName: fileName(montage.name),
        types: [{ description: 'MP4 video', accept: { 'video/mp4': ['.mp4'] } }],
      });
      await startExport(options, handle);
    } catch (error) {
      if (!(error instanceof DOMException && error.name === 'AbortError')) throw error;
    }
  };
  return (
    <>
      <h2 className="caption">One MP4 file</h2>
      <label className="flex items-center justify-between gap-2">
        Size
        <select
          className="field w-52"
          value={size}
          disabled={running}
          onChange={(event) => setSize(event.currentTarget.value as typeof size)}
        >
          <option value="source">
            as the source, {whole.width}×{whole.height}
          </option>
          <option value="720">1280×720</option>
        </select>
      </label>
      {rounded && size === 'source' && (
        <p className="text-[12px] text-fog">
          The source is {source.width}×{source.height}; H.264 needs even numbers, so the export is {whole.width}×
          {whole.height}.
        </p>
      )}
      <label className="flex items-center justify-between gap-2">
        Rate
        <select
          className="field w-52"
          aria-label="Frames a second"
          value={rate}
          disabled={running}
          onChange={(event) => setRate(event.currentTarget.value)}
        >
          <option value="montage">{rateLabel(montageRate)}, constant</option>
          {variable && <option value="source">variable, each frame’s own time</option>}
          {STANDARD_RATES.map((r, i) =>
            !sameRate(r, montageRate) && r.num / r.den >= 23 && r.num / r.den <= 61 ? (
              <option key={i} value={i}>
                {rateLabel(r)}, constant
              </option>
            ) : null,
          )}
        </select>
      </label>
      <label className="flex items-center justify-between gap-2">
        Sound
        <select
          className="field w-52"
          value={sound}
          disabled={running}
          onChange={(event) => setSound(event.currentTarget.value as ExportOptions['sound'])}
        >
          <option value="aac">AAC</option>
          <option value="opus">Opus</option>
          <option value="none">none</option>
        </select>
      </label>
      <p className="text-[12px] text-fog">
        {line.count} frames, {line.duration.toFixed(2)} s, H.264, BT.709 limited range. Frames that no accent touches go
        to the encoder as they were decoded.
      </p>
      {state.phase === 'done' && (
        <p className="rounded-md bg-plank p-3" data-export-done={state.result.frames}>
          <b>{state.name}</b> is {state.result.damaged.length ? 'written' : 'whole'}: {megabytes(state.size)},{' '}
          {state.result.frames} frames; {state.result.rendered} drawn, {state.result.passedThrough} passed through.
          {damageSentence(state.result.damaged)}
          {!current && ' The montage has changed since.'}
          {!current && state.url && (
            <a className="ml-1 underline" href={state.url} download={state.name}>
              Save the older file
            </a>
          )}
        </p>
      )}
      <div className="foot flex flex-col gap-2">
        {current?.url ? (
          <a className="key-main" data-main href={current.url} download={current.name}>
            <Download size={16} />
            Save {current.name}
          </a>
        ) : (
          <button
            className="key-main"
            data-main
            disabled={running || line.count === 0}
            onClick={() => void startExport(options)}
          >
            {running ? 'Exporting…' : 'Export MP4'}
          </button>
        )}
        {running && (
          <button className="key justify-center" onClick={() => jobs.cancel(state.job)}>
            Cancel the export
          </button>
        )}
        {!running && 'showSaveFilePicker' in window && (
          <button className="key justify-center" disabled={line.count === 0} onClick={() => void choosePlace()}>
            Choose where to write…
          </button>
        )}
        {current && (
          <button className="key justify-center" onClick={() => void startExport(options)}>
            Export again
          </button>
        )}
      </div>
    </>
  );
}
