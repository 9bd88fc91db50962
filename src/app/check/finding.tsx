/** How much is found of each kind, how sound and picture are joined, and the beats of the music. */
import { ofAccents } from '../../core/document/words.ts';
import { isOfKind } from '../../core/document/hits.ts';
import { useMemo, useState } from 'react';
import { DETECTORS, gridOf, trackRole } from '../../core/finding/detectors/index.ts';
import { whyNone } from '../../core/finding/detectors/why.ts';
import { tappedTempo } from '../../core/finding/beats/edit.ts';
import { setGrid, setSensitivity, setSettings, updateSource } from '../../core/document/edits.ts';
import { DEFAULT_GRID, type HitKind, type Source } from '../../core/document/types.ts';
import { KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { sourceTimeAt } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { useMedia } from '../stores/media.ts';
import { edit } from '../stores/montage.ts';
import { notice, useView } from '../stores/view.ts';

export function Finding() {
  const { montage, found } = useDerived()!;
  /** A flash that was heard as a shot counts as both: either slider acts on it. */
  const counts = (kind: HitKind): number =>
    [...found.values()].reduce((sum, { hits }) => sum + hits.filter((hit) => isOfKind(hit, kind)).length, 0);
  const [asked, setAsked] = useState<HitKind | null>(null);
  return (
    <div className="flex flex-col gap-3">
      <h2 className="caption">Sensitivity</h2>
      <div className="flex flex-col gap-1">
        {DETECTORS.flatMap((detector) =>
          detector.kinds.map((kind) => (
            <label
              key={kind}
              className="grid grid-cols-[10px_72px_1fr_30px_40px] items-center gap-2"
              title={`${detector.doc} ${detector.reference}`}
            >
              <span aria-hidden className="size-2 rounded-full" style={{ background: KIND_COLOURS[kind] }} />
              <span className="text-fog">{kindName(kind)}</span>
              <input
                className="range w-full"
                type="range"
                min={0}
                max={1}
                step={0.01}
                aria-label={`Sensitivity of ${kindName(kind)}`}
                value={montage.sensitivity[kind] ?? 0.5}
                onChange={(event) =>
                  edit(setSensitivity(kind, Number(event.currentTarget.value)), `sensitivity-${kind}`)
                }
              />
              <span className="mono text-right text-[12px] text-fog">
                {Math.round((montage.sensitivity[kind] ?? 0.5) * 100)}
              </span>
              <span className="mono text-right text-[12px]" data-found={kind}>
                {counts(kind) || (
                  <button
                    className="rounded px-1 text-lamp hover:bg-plank"
                    aria-label={`Why no ${kindName(kind)} was found`}
                    aria-expanded={asked === kind}
                    onClick={(event) => {
                      event.preventDefault();
                      setAsked(asked === kind ? null : kind);
                    }}
                  >
                    0 ?
                  </button>
                )}
              </span>
              {asked === kind && <Why kind={kind} />}
            </label>
          )),
        )}
      </div>
      <h2 className="caption">Sound and picture</h2>
      <label className="flex items-center gap-2">
        <span className="grow text-fog">Count as one hit within</span>
        <input
          className="field mono w-20 py-0.5"
          type="number"
          min={0}
          max={500}
          step={5}
          aria-label="Fusion window in milliseconds"
          value={Math.round(montage.settings.fusionWindow * 1000)}
          onChange={(event) =>
            edit(
              setSettings({ fusionWindow: Math.min(0.5, Math.max(0, Number(event.currentTarget.value) / 1000)) }),
              'fusion-window',
            )
          }
        />
        <span className="text-fog">ms</span>
      </label>
      {montage.sources
        .filter((s) => s.video)
        .map((source) => (
          <Delay key={source.id} source={source} />
        ))}
      {montage.sources
        .filter((source) => !ofAccents(source))
        .map((source) => (
          <Beats key={source.id} source={source} />
        ))}
    </div>
  );
}

/** What keeps a kind from being found. */
function Why({ kind }: { kind: HitKind }) {
  const { montage } = useDerived()!;
  const signals = useMedia((s) => s.signals);
  const why = useMemo(() => whyNone(kind, montage, signals), [kind, montage, signals]);
  return (
    <span className="col-span-full rounded-md bg-plank p-2 text-[12px]" role="status">
      {why}
    </span>
  );
}

function Delay({ source }: { source: Source }) {
  const { found } = useDerived()!;
  const estimated = found.get(source.id)?.delay;
  return (
    <div className="flex flex-col gap-1 rounded-md bg-plank p-2.5">
      <p className="truncate">{source.name}</p>
      <p className="text-[12px] text-fog" data-delay={estimated?.votes ? Math.round(estimated.seconds * 1000) : ''}>
        {!estimated
          ? 'Not searched yet.'
          : estimated.votes
            ? `The sound is ${Math.abs(Math.round(estimated.seconds * 1000))} ms ${estimated.seconds < 0 ? 'early' : 'late'}, from ${estimated.votes} matches with the picture.`
            : 'Too few matches to tell how late the sound is.'}
      </p>
      <label className="flex items-center gap-2">
        <span className="grow text-fog">Offset used</span>
        <input
          className="field mono w-20 py-0.5"
          type="number"
          min={-2000}
          max={2000}
          step={1}
          aria-label={`Delay of the sound of ${source.name} in milliseconds`}
          placeholder={String(Math.round((estimated?.seconds ?? 0) * 1000))}
          value={source.delay === null ? '' : Math.round(source.delay * 1000)}
          onChange={(event) => {
            const { value } = event.currentTarget;
            edit(
              updateSource(source.id, { delay: value === '' ? null : Math.min(2, Math.max(-2, Number(value) / 1000)) }),
              `delay-${source.id}`,
            );
          }}
        />
        <span className="text-fog">ms</span>
      </label>
    </div>
  );
}

/** Beats of a source with music: halve, double, shift, tap, pin. */
function Beats({ source }: { source: Source }) {
  const { montage } = useDerived()!;
  const signals = useMedia((s) => s.signals[source.id]);
  const [taps, setTaps] = useState<number[]>([]);
  if (!signals || !Object.keys(signals.sounds).some((track) => trackRole(source, Number(track)) === 'music'))
    return null;
  const grid = gridOf(source, signals, montage.sensitivity.beat ?? 0.5);
  const change = (value: Parameters<typeof setGrid>[1], group?: string): void => edit(setGrid(source.id, value), group);
  const tap = (): void => {
    const now = performance.now() / 1000;
    // A pause begins anew.
    const next = [...(taps.length && now - taps.at(-1)! < 2.5 ? taps : []), now];
    setTaps(next);
    const bpm = tappedTempo(next);
    if (bpm !== null) change({ bpm }, `tap-${source.id}`);
  };
  const pin = (): void => {
    const at = sourceTimeAt(source.id, useView.getState().playhead);
    if (at === null) notice(`The playhead does not stand on ${source.name}.`, 'error');
    else change({ pin: at });
  };
  const { grid: edited } = source;
  const touched = JSON.stringify(edited) !== JSON.stringify(DEFAULT_GRID);
  return (
    <div
      className="flex flex-col gap-1.5 rounded-md bg-plank p-2.5"
      role="group"
      aria-label={`Beats of ${source.name}`}
    >
      <p className="truncate">Beats of {source.name}</p>
      <p
        className="text-[12px] text-fog"
        data-tempo={grid?.tempi.map((s) => s.bpm.toFixed(1)).join(' ')}
        data-beats={grid?.beats.length ?? 0}
      >
        {grid?.beats.length
          ? `${grid.beats.length} beats, ${grid.downbeats.length} bars, ${grid.tempi.map((s) => s.bpm.toFixed(1)).join(' then ')} a minute`
          : 'No beat that repeats.'}
      </p>
      <div className="flex flex-wrap gap-1.5">
        <button
          className="key py-0.5"
          aria-pressed={edited.times === 0.5}
          onClick={() => change({ times: edited.times === 1 ? 0.5 : 1 })}
        >
          Half tempo
        </button>
        <button
          className="key py-0.5"
          aria-pressed={edited.times === 2}
          onClick={() => change({ times: edited.times === 1 ? 2 : 1 })}
        >
          Double tempo
        </button>
        <button
          className="key py-0.5"
          onClick={() => change({ bar: (edited.bar + 1) % 4 })}
          title="Bars begin one beat later"
        >
          Bar +1 beat
        </button>
        <button className="key py-0.5" onClick={tap} title="Press four times or more, on the beat">
          Tap{taps.length ? ` ${taps.length}` : ''}
        </button>
        <button className="key py-0.5" onClick={pin} title="There is a beat at the playhead">
          Pin a beat here
        </button>
      </div>
      <label className="flex items-center gap-2">
        <span className="grow text-fog">All beats later by</span>
        <input
          className="field mono w-20 py-0.5"
          type="number"
          min={-2000}
          max={2000}
          step={5}
          aria-label={`Shift of the beats of ${source.name} in milliseconds`}
          value={Math.round(edited.shift * 1000)}
          onChange={(event) =>
            change({ shift: Math.min(2, Math.max(-2, Number(event.currentTarget.value) / 1000)) }, `shift-${source.id}`)
          }
        />
        <span className="text-fog">ms</span>
      </label>
      {touched && (
        <button className="key-quiet self-start" onClick={() => change(DEFAULT_GRID)}>
          Back to what was tracked
        </button>
      )}
    </div>
  );
}
