/** All detectors. To add one: a file beside this one and a line here. */
import { toByteArray } from 'base64-js';
import { editedGrid } from '../beats/edit.ts';
import type { BeatGrid } from '../beats/track.ts';
import { withBursts } from '../hits/bursts.ts';
import { estimateDelay, fuse, FUSION_WINDOW, type Delay } from '../hits/fusion.ts';
import { findLike } from '../likeness/likeness.ts';
import {
  DEFAULT_GRID,
  type Hit,
  type HitKind,
  type Montage,
  type NamedFamily,
  type SoundExample,
  type Source,
  type TrackRole,
  type Watch,
} from '../../document/types.ts';
import { BARK_BANDS, POWER, type Signals, type SoundSignals } from '../signals/types.ts';
import { watchDetector } from '../../document/hits.ts';
import { appearances, changes, type WatchSignal } from '../watch/watch.ts';
import { beats } from './beats.ts';
import { cuts } from './cuts.ts';
import type { Detector, Find } from './detector.ts';
import { drops } from './drops.ts';
import { flashes } from './flashes.ts';
import { jolts } from './jolts.ts';
import { onsets } from './onsets.ts';
import { strikes } from './strikes.ts';

export const SOUND_DETECTORS = [onsets, beats, drops] as const satisfies readonly Detector[];
export const PICTURE_DETECTORS = [flashes, jolts, strikes, cuts] as const satisfies readonly Detector[];
export const DETECTORS: readonly Detector[] = [...SOUND_DETECTORS, ...PICTURE_DETECTORS];

/** Evidence of examples and families is named after them, as that of watches is. */
export const exampleDetector = (id: string): string => `like:${id}`;
export const familyDetector = (id: string): string => `family:${id}`;

/** What a sound track holds, as the person said, else as its source is used. */
export const trackRole = (source: Pick<Source, 'role' | 'tracks'>, track: number): TrackRole =>
  source.tracks[track] ?? (source.role === 'music' ? 'music' : 'game');

/** Readable tracks that hits are looked for in. */
export const listenedTracks = (source: Pick<Source, 'role' | 'tracks' | 'audio'>): number[] =>
  source.audio.flatMap((about, track) =>
    about.readable && !['off', 'voice'].includes(trackRole(source, track)) ? [track] : [],
  );

/** Whether a source has everything that finding needs. */
export const isAnalysed = (
  source: Pick<Source, 'role' | 'tracks' | 'audio' | 'video'>,
  signals: Signals | undefined,
): boolean =>
  signals !== undefined &&
  (source.video === null || signals.picture !== null) &&
  listenedTracks(source).every((track) => signals.sounds[track]);

/** What the person asked for; what is left out is as at first. */
export interface Asked {
  readonly sensitivity?: Montage['sensitivity'];
  readonly fusionWindow?: number;
  readonly watches?: readonly {
    readonly watch: Pick<Watch, 'id' | 'mode' | 'sensitivity' | 'region'>;
    readonly signal: WatchSignal;
  }[];
  /** Families that more of is sought, with how alike each attack of each track is to them, 0-255. */
  readonly families?: readonly {
    readonly family: Pick<NamedFamily, 'id' | 'kind' | 'more'>;
    readonly alike: Readonly<Record<number, Uint8Array>>;
  }[];
  readonly examples?: readonly Pick<SoundExample, 'id' | 'rows' | 'lead' | 'least' | 'only'>[];
}

export type Listened = Pick<Source, 'id' | 'role' | 'tracks' | 'delay'> & Partial<Pick<Source, 'grid' | 'content'>>;

export interface Found {
  readonly hits: readonly Hit[];
  /** Attacks that are no hits by themselves, but may be of a family that is: in order of time. */
  readonly faint: readonly Hit[];
  /** The sound's delay as the coincidences say. */
  readonly delay: Delay;
}

/** The grid of the first music on a source's tracks; null without. */
export function gridOf(source: Listened, signals: Signals, sensitivity = 0.5): BeatGrid | null {
  const music = heard(source, signals).find(({ role }) => role === 'music');
  return music ? editedGrid(music.sound, source.grid ?? DEFAULT_GRID, sensitivity) : null;
}

/** Seconds after an attack within which it is loudest. */
const SWELLS = 0.06;

/** How loud an attack is heard: the most power of all kept bands in one hop at it, decibels below full scale. */
function loudnessAt({ bands, rate, start }: SoundSignals, t: number): number {
  const hop = Math.max(0, Math.round((t - start) * rate));
  let most = 0;
  for (let h = hop; h <= hop + SWELLS * rate && (h + 1) * BARK_BANDS <= bands.length; h++) {
    let power = 0;
    for (let b = 0; b < BARK_BANDS; b++) power += POWER[bands[h * BARK_BANDS + b]!]!;
    most = Math.max(most, power);
  }
  return Math.round(100 * Math.log10(most + 1e-12)) / 10;
}

/** Whether it looks into music alone. */
export const isOfMusic = (detector: Detector): boolean => detector.musicOnly === true;

/** Sound tracks of a source that were analysed, and what they hold. */
export const heard = (
  source: Listened,
  signals: Signals,
): { track: number; role: TrackRole; music: boolean; sound: SoundSignals }[] =>
  Object.entries(signals.sounds).map(([track, sound]) => ({
    track: Number(track),
    role: trackRole(source, Number(track)),
    music: source.tracks[Number(track)] === 'music',
    sound,
  }));

/** Found hits of one source, sound and picture fused, close repeats marked, in order of time. */
export function findHits(
  source: Listened,
  signals: Signals,
  { sensitivity = {}, fusionWindow = FUSION_WINDOW, watches = [], examples = [], families = [] }: Asked = {},
): Found {
  const asked = (kind: HitKind): number => sensitivity[kind] ?? 0.5;
  const hit = (detector: string, find: Find, sound: SoundSignals | null): Hit => ({
    // Milliseconds name a find: the same signals give the same names.
    id: `${source.id}:${detector}:${Math.round(find.t * 1000)}`,
    source: source.id,
    t: find.t,
    kind: find.kind,
    strength: find.strength,
    confidence: find.confidence,
    evidence: [{ detector, t: find.t, strength: find.strength }],
    ...(sound ? { audioT: find.t, loud: loudnessAt(sound, find.t) } : {}),
    ...(find.kinds ? { kinds: find.kinds } : {}),
    ...(find.focus ? { focus: find.focus } : {}),
    state: 'found',
  });
  const moments: Hit[] = [];
  const faint: Hit[] = [];
  // Beats and drops are of the music: they are not one moment with the strokes that fall on them.
  const apart: Hit[] = [];
  for (const { track, role, music, sound } of heard(source, signals)) {
    if (role === 'off' || role === 'voice') continue;
    const grid = role === 'music' ? editedGrid(sound, source.grid ?? DEFAULT_GRID, asked('beat')) : undefined;
    for (const detector of SOUND_DETECTORS) {
      const musicOnly = isOfMusic(detector);
      if (musicOnly && role !== 'music') continue;
      for (const find of detector.find({ sound, music, grid, content: source.content ?? 'unsaid' }, asked))
        (musicOnly ? apart : find.faint ? faint : moments).push(hit(detector.id, find, musicOnly ? null : sound));
    }
    for (const { family, alike } of families) {
      const { id, kind, more } = family;
      if (more === null) continue;
      alike[track]?.forEach((likeness, attack) => {
        const confidence = likeness / 255;
        if (confidence >= more)
          apart.push(
            hit(familyDetector(id), { t: sound.attacks[attack]!, kind, strength: confidence, confidence }, sound),
          );
      });
    }
    for (const example of examples) {
      if (example.only !== null && example.only !== source.id) continue;
      for (const { t, likeness } of findLike(
        sound,
        { rows: toByteArray(example.rows), lead: example.lead },
        example.least,
      )) {
        apart.push(
          hit(exampleDetector(example.id), { t, kind: 'match', strength: likeness, confidence: likeness }, sound),
        );
      }
    }
  }
  const { picture } = signals;
  if (picture)
    for (const detector of PICTURE_DETECTORS)
      for (const find of detector.find({ picture }, asked)) moments.push(hit(detector.id, find, null));
  for (const { watch, signal } of watches) {
    const { x, y, w, h } = watch.region;
    const focus = { x: x + w / 2, y: y + h / 2 };
    for (const { t, strength } of (watch.mode === 'appears' ? appearances : changes)(signal, watch.sensitivity)) {
      moments.push(hit(watchDetector(watch.id), { t, kind: 'popup', strength, confidence: strength, focus }, null));
    }
  }
  const delay = estimateDelay([...moments, ...faint]);
  const fused = fuse(moments, faint, fusionWindow, source.delay ?? delay.seconds);
  const used = new Set(fused.map(({ audioT }) => audioT));
  return {
    faint: faint.filter(({ audioT }) => !used.has(audioT)).sort((a, b) => a.t - b.t),
    hits: withBursts([...fused, ...apart].sort((a, b) => a.t - b.t)),
    delay,
  };
}
