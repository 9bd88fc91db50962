/** Sound files of one's own for accents, kept beyond one montage; and hearing a sound on a hit before it is taken. */
import { nanoid } from 'nanoid';
import { changeAccent } from '../../core/document/edits.ts';
import {
  DEFAULT_SOUND,
  type Accent,
  type AccentSound,
  type SoundAsset,
  type Source,
} from '../../core/document/types.ts';
import { soundTable } from '../../engine/index.ts';
import { derivedNow } from './derived.ts';
import { meetSource } from './media.ts';
import { edit, useMontage } from './montage.ts';
import { startPlaying } from './player.ts';
import { shelf } from './shelf.ts';

const kept = shelf(soundTable);
export const useSounds = kept.use;
export const forgetSound = kept.drop;

export const keepSound = (source: Source, peak: number): Promise<void> =>
  kept.keep(source.name, { source, peak }, `${source.name} is kept among your sounds.`);

/** Has a kept sound in the open montage, and gives what accents name it by. */
export function takeSound(source: Source, peak: number): SoundAsset {
  const { montage } = useMontage.getState();
  if (montage && !montage.sources.some(({ fingerprint }) => fingerprint === source.fingerprint)) {
    const own = { ...source, id: nanoid(8) };
    edit((m) => ({ ...m, sources: [...m.sources, own] }));
    void meetSource(montage.id, own);
  }
  return { file: source.fingerprint, name: source.name, duration: source.duration, peak };
}

export const soundOf = (asset: SoundAsset): AccentSound => ({ ...DEFAULT_SOUND, id: nanoid(8), choices: [asset] });

export const addSound = (accent: string, asset: SoundAsset): void =>
  edit(changeAccent(accent, (one) => ({ ...one, sounds: [...(one.sounds ?? []), soundOf(asset)] })));

export const changeSound = (accent: string, id: string, change: Partial<AccentSound>, group?: string): void =>
  edit(
    changeAccent(accent, (one) => ({
      ...one,
      sounds: (one.sounds ?? []).map((sound) => (sound.id === id ? { ...sound, ...change } : sound)),
    })),
    group && `sound-${id}-${group}`,
  );

export const removeSound = (accent: string, id: string): void =>
  edit(
    changeAccent(accent, ({ sounds, ...one }) => {
      const left = (sounds ?? []).filter((sound) => sound.id !== id);
      return left.length ? { ...one, sounds: left } : one;
    }),
  );

/** Seconds that are heard before a hit and after it. */
const BEFORE = 0.8;
const AFTER = 1.6;
const RATE = 48_000;

/** Plays the surroundings of a frame with one sound on it, by itself or as an accent has it. */
export function hearOn(frame: number, accent: Accent, sounds: readonly AccentSound[]): void {
  const derived = derivedNow();
  if (!derived) return;
  const { line } = derived;
  const at = line.timeOf(frame);
  const from = Math.round(Math.max(0, at - BEFORE) * RATE);
  const to = Math.round(Math.min(line.duration, at + AFTER) * RATE);
  if (to > from)
    void startPlaying({
      stretches: [{ from, to }],
      start: 0,
      loop: false,
      audition: { accent: { ...accent, sounds }, frame, intensity: 1 },
    });
}
