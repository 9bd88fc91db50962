/** Hits of the picture onto beats of the music: which can within the limits, which cannot and by how much. */
import { useMemo, useState } from 'react';
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { timecode } from '../../core/base/time.ts';
import { LIMITS } from '../../core/document/limits.ts';
import { together } from '../../core/document/edits.ts';
import { fixedFrames, land, landRow, setLanding, type LandingRule } from '../../core/timeline/land.ts';
import { musicSourceTime } from '../../core/timeline/music.ts';
import { kindName } from '../parts/kinds.ts';
import { NumberField } from '../parts/number-field.tsx';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { musicTimes } from '../stores/row.ts';
import { notice } from '../stores/view.ts';

/** Beats offered to each side of a hit. */
const NEAR = 3;
const FREE = 'free';
const LET_GO = 'let go';
const USUAL: LandingRule = { every: 'beats', least: 0.6, most: 1.6, fixed: {} };

export function LandDialog({ onClose }: { onClose: () => void }) {
  const derived = useDerived()!;
  const { line, montage, everywhere } = derived;
  const [{ every, least, most, fixed: moments }, setRule] = useState<LandingRule>(montage.landing ?? USUAL);
  const change = (part: Partial<LandingRule>): void => setRule((rule) => ({ ...rule, ...part }));
  const fixed = useMemo(() => fixedFrames({ fixed: moments }, montage.music, line.fps), [moments, montage.music, line]);
  const times = useMemo(() => musicTimes(derived), [derived]);
  const beats = times[every];
  const limits = useMemo(() => ({ least, most }), [least, most]);
  const landed = useMemo(
    () => landRow(line, everywhere, beats, limits, fixed),
    [line, everywhere, beats, limits, fixed],
  );
  const count = landed.reduce((sum, { pairs }) => sum + pairs.length, 0);
  const missed = landed.reduce((sum, one) => sum + one.missed.length, 0);
  const names = useMemo(() => new Map(everywhere.map(({ hit, frame }) => [hit.id, { hit, frame }])), [everywhere]);
  const frames = useMemo(() => beats.map((seconds) => Math.round(seconds * line.fps)), [beats, line]);
  const beatsNear = (frame: number): number[] => {
    const near = frames.findIndex((beat) => beat >= frame);
    const at = near < 0 ? frames.length : near;
    return frames.slice(Math.max(0, at - NEAR), at + NEAR);
  };
  const choose = (id: string, value: string): void => {
    const { [id]: _, ...others } = moments;
    const seconds = Number(value) / line.fps;
    const heard = montage.music.flatMap((item) => {
      const t = value === LET_GO ? null : musicSourceTime(item, seconds);
      return t === null ? [] : [{ source: item.source, t }];
    })[0];
    if (value === LET_GO) change({ fixed: { ...others, [id]: null } });
    else change({ fixed: heard ? { ...others, [id]: heard } : others });
  };
  const limit = (label: string, value: number, set: (value: number) => void) => (
    <label className="flex items-center gap-1">
      {label}
      <NumberField
        label={`${label} speed, percent`}
        value={Math.round(value * 100)}
        min={LIMITS.speed.min * 100}
        max={LIMITS.speed.max * 100}
        step={5}
        className="field mono w-16 px-1 py-0 text-[12px]"
        onValue={(percent) => set(percent / 100)}
      />
      %
    </label>
  );
  return (
    <Dialog open onClose={onClose} className="relative z-40">
      <div className="fixed inset-0 flex items-center justify-center bg-night/70 p-6">
        <DialogPanel className="flex max-h-full w-[680px] flex-col gap-3 overflow-hidden rounded-xl border border-rope bg-deck p-4 text-[13px]">
          <DialogTitle className="font-semibold">Land hits on the music</DialogTitle>
          <div className="flex flex-wrap items-center gap-x-4 gap-y-2 text-[12px] text-fog">
            <label className="flex items-center gap-2">
              on its
              <select
                className="field py-0"
                aria-label="Land on"
                value={every}
                onChange={(event) => change({ every: event.currentTarget.value as LandingRule['every'] })}
              >
                <option value="beats">beats</option>
                <option value="bars">bars, one hit each</option>
              </select>
            </label>
            {limit('slowest', least, (least) => change({ least }))}
            {limit('fastest', most, (most) => change({ most }))}
          </div>
          {beats.length === 0 && (
            <p role="alert">No beats are known: bring music into the row, and find its hits first.</p>
          )}
          <p role="status" data-landed={count} data-missed={missed}>
            <b>{count}</b> hits land, {missed} cannot. Clips end where they do, as far as their sources go.
          </p>
          <ul className="flex min-h-24 grow flex-col gap-1 overflow-y-auto text-[12px] text-fog" aria-label="Hits">
            {landed.flatMap(({ span, pairs, missed: left }) =>
              [...pairs.map(({ id, at }) => ({ id, at, by: 0 })), ...left.map(({ id, by }) => ({ id, at: null, by }))]
                .map((one) => ({ ...one, ...names.get(one.id)! }))
                .sort((a, b) => a.frame - b.frame)
                .map(({ id, at, by, hit, frame }) => (
                  <li key={`${span.clip.id} ${id}`} className="flex items-center gap-2">
                    <span className="w-56 truncate text-sail">
                      {kindName(hit.kind)} at {timecode(frame, line.rate)}
                    </span>
                    <span className="grow">
                      {at !== null
                        ? `lands on ${timecode(span.first + at, line.rate)}`
                        : Number.isFinite(by)
                          ? `${Math.abs(by).toFixed(1)} frames ${by > 0 ? 'before' : 'after'} a beat`
                          : 'no beat in its clip'}
                    </span>
                    <select
                      className="field py-0"
                      aria-label={`Where the ${kindName(hit.kind)} at ${timecode(frame, line.rate)} lands`}
                      value={fixed.has(id) ? (fixed.get(id) ?? LET_GO) : FREE}
                      onChange={(event) => choose(id, event.currentTarget.value)}
                    >
                      <option value={FREE}>as it comes</option>
                      <option value={LET_GO}>is let go</option>
                      {beatsNear(frame).map((beat) => (
                        <option key={beat} value={beat}>
                          on {timecode(beat, line.rate)}
                        </option>
                      ))}
                    </select>
                  </li>
                )),
            )}
          </ul>
          <div className="flex justify-end gap-2">
            {montage.clips.some(({ pins }) => pins) && (
              <button
                className="key mr-auto"
                onClick={() => {
                  edit(setLanding(null));
                  onClose();
                }}
              >
                Let all go
              </button>
            )}
            <button className="key" onClick={onClose}>
              Cancel
            </button>
            <button
              className="key-main w-auto px-5"
              disabled={count === 0}
              onClick={() => {
                edit(
                  together([
                    land(landed, line, montage.sources, limits),
                    setLanding({ every, least, most, fixed: moments }),
                  ]),
                );
                notice(`${count} hits land on the music, and go on to when music or clips move. Undo takes it back.`);
                onClose();
              }}
            >
              Land {count}
            </button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
