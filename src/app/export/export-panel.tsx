/** Export: size, rate and sound, then one file. */
import { useEffect, useState } from 'react';
import { Download } from 'lucide-react';
import { even } from '../../core/document/edits.ts';
import { formatsOf, LINES, sizeOf } from '../../core/document/formats.ts';
import { STANDARD_RATES, rateLabel, sameRate } from '../../core/base/time.ts';
import type { Montage, Timing } from '../../core/document/types.ts';
import type { MediaIndex } from '../../core/timeline/timeline.ts';
import {
  bitrateFor,
  damageSentence,
  expectedSize,
  exportKind,
  soundIn,
  type RendererChoice,
} from '../../engine/index.ts';
import { seek } from '../stores/actions.ts';
import { saveLink } from '../stores/opening.ts';
import { jobs } from '../stores/jobs.ts';
import { titlesOutside, type TitleOutside } from '../stores/titles-outside.ts';
import { useDerived } from '../stores/derived.ts';
import { askedText, fileName, startExport, useExport, type Ordered } from '../stores/exporting.ts';
import { queueExport, useExportQueue } from '../stores/export-queue.ts';
import { Queue } from './queue.tsx';
import { LevelsPanel } from './levels.tsx';
import { Lists } from './lists.tsx';
import { useMedia } from '../stores/media.ts';
import { useMontage } from '../stores/montage.ts';
import { usePreferences, useRenderer, useView, type ExportWay } from '../stores/view.ts';
import { Parts, partsOf, WHOLE, type PartsChoice } from './parts.tsx';
import { WayOf } from './way-of.tsx';

const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;

/** Titles that are not whole on the picture of one of these versions. */
function useTitlesOutside(montage: Montage, media: MediaIndex, wanted: readonly (string | null)[]): TitleOutside[] {
  const [found, setFound] = useState<TitleOutside[]>([]);
  const { titles, formats, settings } = montage;
  const asked = JSON.stringify(wanted);
  useEffect(() => {
    let current = true;
    titlesOutside(montage, media, wanted).then(
      (list) => current && setFound(list),
      () => current && setFound([]),
    );
    return () => void (current = false);
    // Only what titles lie on and in is looked at again.
  }, [titles, formats, settings, media, asked]);
  return found;
}

export function ExportPanel() {
  const derived = useDerived()!;
  const montage = useMontage((m) => m.montage)!;
  const state = useExport((s) => s.state);
  const drawnBy = useMedia((s) => s.drawnBy);
  const renderer = useRenderer();
  const { line } = derived;
  const source = montage.sources.find((s) => s.id === montage.clips[0]?.source)?.video;
  const variable = montage.clips.some((clip) => montage.sources.find((s) => s.id === clip.source)?.video?.variable);
  const way = usePreferences((s) => s.exportAs);
  const setWay = (part: Partial<ExportWay>): void => {
    usePreferences.setState({ exportAs: { ...way, ...part } });
  };
  const { lines } = way;
  const kind = exportKind(way.kind);
  const sound = soundIn(kind, way.sound);
  const [parts, setParts] = useState<PartsChoice>(WHOLE);
  const [rate, setRate] = useState<string>(variable ? 'source' : 'montage');
  /** Formats that are left out. */
  const [left, setLeft] = useState<readonly (string | null)[]>([]);
  const { settings } = montage;
  const formats = formatsOf(montage);
  const wanted = formats.filter(({ id }) => !left.includes(id));
  const rounded =
    source &&
    (settings.width !== source.width || settings.height !== source.height) &&
    settings.width === even(source.width) &&
    settings.height === even(source.height);
  const timing: Timing =
    rate === 'source'
      ? { mode: 'source' }
      : rate === 'montage'
        ? settings.timing
        : { mode: 'constant', rate: STANDARD_RATES[Number(rate)]! };
  const outside = useTitlesOutside(
    montage,
    derived.media,
    wanted.map(({ id }) => id),
  );
  const ranges = partsOf(parts, derived);
  const { quality } = way;
  const bitrate = way.megabits === null ? undefined : way.megabits * 1e6;
  const orders = wanted.flatMap(({ id, width, height }): Ordered[] => {
    const size = lines === null ? { width, height } : sizeOf({ width, height }, lines);
    const options = { ...size, timing, sound, renderer, kind: kind.id, quality, bitrate, copy: way.copy };
    return ranges.map(({ part, range }) => ({ format: id, part, options: { ...options, range } }));
  });
  // Ranges are frames of the montage's own rate and shape.
  const cannotPart = parts.kind !== 'whole' && (rate !== 'montage' || wanted.some(({ id }) => id !== null));
  const expected = orders.reduce((sum, { options: { width, height, range } }) => {
    const seconds = range ? (range.to - range.from) / line.fps : line.duration;
    return sum + expectedSize(seconds, bitrate ?? bitrateFor(kind, width, height, line.fps, quality), sound);
  }, 0);
  const montageRate = settings.timing.mode === 'constant' ? settings.timing.rate : line.rate;
  const running = state.phase === 'running';
  const waiting = useExportQueue((q) => q.list.length);
  /** The finished file, while the montage is as it was exported. */
  const current = state.phase === 'done' && state.of === montage ? state : null;
  /** The main button saves what is there, until something else is asked for. */
  const saves = current && (current.asked === null || current.asked === askedText(orders)) ? current.files : [];
  const only = saves.length === 1 ? saves[0] : null;
  const choosePlace = async (): Promise<void> => {
    try {
      const handle = await window.showSaveFilePicker({
        suggestedName: fileName(montage.name, wanted[0]?.id ? wanted[0].name : '', kind.id),
        types: [{ description: kind.name, accept: { [kind.mime]: [`.${kind.extension}` as const] } }],
      });
      await startExport(orders, handle);
    } catch (error) {
      if (!(error instanceof DOMException && error.name === 'AbortError')) throw error;
    }
  };
  return (
    <>
      <h2 className="caption">{orders.length > 1 ? `${orders.length} files` : 'One file'}</h2>
      {formats.length > 1 && (
        <fieldset className="flex flex-col gap-1">
          <legend className="text-[12px] text-fog">Formats, exported in one go</legend>
          {formats.map(({ id, name, width, height }) => (
            <label key={id ?? ''} className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-tide"
                checked={!left.includes(id)}
                onChange={(event) =>
                  setLeft(event.currentTarget.checked ? left.filter((one) => one !== id) : [...left, id])
                }
              />
              <span className="grow">{name}</span>
              <span className="mono text-[12px] text-fog">
                {width}×{height}
              </span>
            </label>
          ))}
        </fieldset>
      )}
      <label className="flex items-center justify-between gap-2">
        Size
        <select
          className="field w-52"
          value={lines ?? 'own'}
          onChange={(event) =>
            setWay({ lines: event.currentTarget.value === 'own' ? null : Number(event.currentTarget.value) })
          }
        >
          <option value="own">
            {formats.length > 1 ? 'as the formats say' : `as the montage, ${settings.width}×${settings.height}`}
          </option>
          {LINES.map((value) => (
            <option key={value} value={value}>
              {value}p
            </option>
          ))}
        </select>
      </label>
      {rounded && lines === null && (
        <p className="text-[12px] text-fog">
          The source is {source.width}×{source.height}; {kind.codecName} needs even numbers, so the export is{' '}
          {settings.width}×{settings.height}.
        </p>
      )}
      <label className="flex items-center justify-between gap-2">
        Rate
        <select
          className="field w-52"
          aria-label="Frames a second"
          value={rate}
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
      <WayOf way={way} onWay={setWay} />
      <Parts parts={parts} onParts={setParts} />
      {cannotPart && (
        <p role="alert" className="text-[12px] text-ember">
          Parts are exported at the montage’s own rate and shape: set the rate back, or leave the other formats out.
        </p>
      )}
      <p className="text-[12px] text-fog">
        {line.count} frames, {line.duration.toFixed(2)} s, BT.709 limited range, about{' '}
        <span data-expected>{megabytes(expected)}</span>. Frames that no accent touches go to the encoder as they were
        decoded.
      </p>
      <label className="flex items-center gap-2 text-[12px] text-fog">
        <span className="grow" data-drawn-by={drawnBy ?? undefined}>
          {drawnBy === 'cpu' ? 'Drawn on the processor' : drawnBy === 'gpu' ? 'Drawn on the graphics unit' : 'Drawn on'}
        </span>
        <select
          className="field py-0"
          aria-label="What draws the pictures"
          title="The processor is faster where the graphics unit is only acted out"
          value={renderer}
          onChange={(event) => {
            usePreferences.setState({ renderer: event.currentTarget.value as RendererChoice });
            // Who chooses it has it tried again.
            useView.setState({ graphicsLost: false });
          }}
        >
          <option value="auto">as suits this machine</option>
          <option value="gpu">graphics unit</option>
          <option value="cpu">processor</option>
        </select>
      </label>
      {state.phase === 'done' &&
        state.files.map(({ name, result, size, url }) => (
          <p key={name} className="rounded-md bg-plank p-3" data-export-done={result.frames}>
            <b>{name}</b> is {result.damaged.length ? 'written' : 'whole'}: {megabytes(size)}, {result.frames} frames;{' '}
            {result.rendered} drawn, {result.passedThrough} passed through
            {result.copied > 0 && `, ${result.copied} of them taken over without a loss`}. {result.notCopied.join(' ')}
            {result.loudness &&
              ` Its sound is at ${result.loudness.integrated.toFixed(1)} LUFS, ${result.loudness.truePeak.toFixed(1)} dBTP${
                result.loudness.limited > 0.05
                  ? `; up to ${result.loudness.limited.toFixed(1)} dB were taken off its peaks`
                  : ''
              }. `}
            {damageSentence(result.damaged)}
            {!current && ' The montage has changed since.'}
            {url && saves.length !== 1 && (
              <a className="ml-1 underline" href={url} download={name}>
                {current ? 'Save it' : 'Save the older file'}
              </a>
            )}
          </p>
        ))}
      {outside.map(({ text, format, frame }, i) => (
        <p key={i} role="alert" className="text-[12px] text-ember" data-title-outside={format}>
          The title “{text.replaceAll('\n', ' ')}” is not whole on the picture of {format}.{' '}
          <button className="underline" onClick={() => seek(frame)}>
            Show frame {frame}
          </button>
          , and move it at Spread in that format.
        </p>
      ))}
      <Queue />
      <LevelsPanel />
      <Lists />
      <div className="foot flex flex-col gap-2">
        {saves.length > 1 && saves.every(({ url }) => url) ? (
          <button className="key-main" data-main onClick={() => saves.forEach(({ name, url }) => saveLink(url!, name))}>
            <Download size={16} />
            Save {saves.length} files
          </button>
        ) : only?.url ? (
          <a className="key-main" data-main href={only.url} download={only.name}>
            <Download size={16} />
            Save {only.name}
          </a>
        ) : (
          <button
            className="key-main"
            data-main
            disabled={running || line.count === 0 || orders.length === 0 || cannotPart}
            onClick={() => void startExport(orders)}
          >
            {running
              ? 'Exporting…'
              : orders.length > 1
                ? `Export ${orders.length} ${parts.kind === 'whole' ? 'formats' : 'files'}`
                : `Export ${kind.extension === 'webm' ? 'WebM' : 'MP4'}`}
          </button>
        )}
        {(running || waiting > 0) && (
          <button
            className="key justify-center"
            disabled={line.count === 0 || orders.length === 0 || cannotPart}
            onClick={() => void queueExport(orders)}
          >
            Add to the queue
          </button>
        )}
        {running && (
          <button className="key justify-center" onClick={() => jobs.cancel(state.job)}>
            Cancel the export
          </button>
        )}
        {!running && orders.length === 1 && 'showSaveFilePicker' in window && (
          <button
            className="key justify-center"
            disabled={line.count === 0 || cannotPart}
            onClick={() => void choosePlace()}
          >
            Choose where to write…
          </button>
        )}
        {current && (
          <button className="key justify-center" onClick={() => void startExport(orders)}>
            Export again
          </button>
        )}
      </div>
    </>
  );
}
