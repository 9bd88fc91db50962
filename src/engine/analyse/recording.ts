/** One recording by itself: what is found in it, and a montage of the strongest moments of one or several. */
import { fromByteArray } from 'base64-js';
import { proxy } from 'comlink';
import { isOfKind } from '../../core/document/hits.ts';
import { readProfile } from '../../core/document/profile-file.ts';
import {
  DEFAULT_GRID,
  HIT_KINDS,
  type Accent,
  type Content,
  type Hit,
  type HitKind,
  type Kinds,
  type Montage,
  type Region,
  type Source,
} from '../../core/document/types.ts';
import { fps } from '../../core/base/time.ts';
import { editedGrid } from '../../core/finding/beats/edit.ts';
import { findHits, type Asked } from '../../core/finding/detectors/index.ts';
import { familiesOf, KIN, kinshipOf, type Family } from '../../core/finding/families/families.ts';
import { isSeen } from '../../core/finding/hits/fusion.ts';
import { exampleFrom, LIKE_ENOUGH } from '../../core/finding/likeness/likeness.ts';
import type { SoundSignals } from '../../core/finding/signals/types.ts';
import { bestOf, type BestOf } from '../../core/timeline/best-of.ts';
import { frameTimesOf } from '../../core/timeline/frame-times.ts';
import { EngineError } from '../errors.ts';
import type { WorkerClient } from '../jobs/worker-client.ts';
import type { MediaDescription, MediaLocation } from '../media/open.ts';
import type { AnalyseApi } from './analyse.worker.ts';

/** What was found in a recording. */
export interface RecordingAnalysis {
  duration: number;
  fps: number | null;
  hits: {
    /** Time stamp of the contact frame for what was seen, else the attack. */
    t: number;
    frame: number | null;
    audioT: number | null;
    kind: HitKind;
    strength: number;
    confidence: number;
    kinds: Kinds;
    evidence: Hit['evidence'];
    burst: string | null;
    /** The family of sounds it belongs to, by its id. */
    family: string | null;
  }[];
  /** Sounds that the file itself repeats, the largest first; members are indices into `hits`. */
  families: {
    id: string;
    /** In the person's own words, from the profile; null: named after its kind. */
    name: string | null;
    kind: HitKind;
    confidence: number;
    size: number;
    example: { t: number; duration: number };
    members: readonly number[];
  }[];
  beats: number[];
  downbeats: number[];
  /** Seconds by which the sound comes after the picture, from their coincidences. */
  audioDelay: number;
  /** What of the file could not be read, in sentences; empty where all could. */
  notes: readonly string[];
  /** Beats a minute; a list where it changes; null without beats. */
  tempo: number | { t: number; bpm: number }[] | null;
  cuts: { t: number; frame: number | null }[];
}

export interface AnalyseOrder {
  name: string;
  track: number | null;
  sensitivity: number | null;
  /** Seconds of an example that more like it are sought of. */
  like: readonly [number, number] | null;
  /** Shares of the picture, and the number of the frame that shows what is sought. */
  region: (Region & { reference: number }) | null;
  /** Kinds, and own names of the profile's families. */
  kinds: readonly string[] | null;
  minConfidence: number;
  /** Text of a profile. */
  profile: string | null;
  content: Content | null;
}

/**
 * Finds the hits of a recording.
 * @param about what {@link AnalyseApi} describes it as
 * @param print its fingerprint, under which what it was heard and seen as is kept; nothing is where it is not given
 * @throws EngineError, FormatError
 */
export async function analyseRecording(
  order: AnalyseOrder,
  location: MediaLocation,
  about: MediaDescription,
  api: WorkerClient<AnalyseApi>['api'],
  progress: (share: number) => void,
  print?: string,
): Promise<RecordingAnalysis> {
  const profile = order.profile === null ? null : readProfile(order.profile);
  const readable = about.audio.findIndex((track) => track.readable);
  const track = order.track === null ? (readable < 0 ? null : readable) : order.track - 1;
  if (track !== null && !about.audio[track])
    throw new EngineError(
      'no-tracks',
      `${order.name} has ${about.audio.length} sound tracks; number ${order.track} was asked for.`,
    );
  if (track !== null && !about.audio[track]!.readable)
    throw new EngineError(
      'audio-codec',
      `Sound track ${track + 1} is coded as ${about.audio[track]!.codec}, which this browser cannot decode.`,
    );
  const { signals, notes } = await api.analyse(
    location,
    {
      name: order.name,
      tracks: track === null ? [] : [track],
      picture: about.video !== null,
      duration: about.duration,
    },
    proxy(progress),
    print === undefined ? undefined : { fingerprint: print, from: null },
  );
  const { picture } = signals;
  const sound = track === null ? null : (signals.sounds[track] ?? null);

  const examples: Asked['examples'] = order.like ? [exampleOf(sound, order.like)] : [];
  const watches: NonNullable<Asked['watches']>[number][] = [];
  if (order.region) {
    const { reference, ...region } = order.region;
    if (!picture) throw new EngineError('no-frames', `${order.name} has no picture to watch.`);
    const t = picture.times[reference];
    if (t === undefined)
      throw new EngineError(
        'nothing-to-do',
        `${order.name} has ${picture.times.length} frames; frame ${reference} was named as the reference.`,
      );
    const sought = await api.takeExample(location, order.name, region, t);
    const signal = await api.watch(
      location,
      { name: order.name, duration: about.duration },
      region,
      sought,
      proxy(progress),
    );
    watches.push({ watch: { id: 'asked', mode: 'appears', sensitivity: 0.5, region }, signal });
  }

  const content = order.content ?? profile?.content ?? 'unsaid';
  const named = profile?.families ?? [];
  const sought = await Promise.all(
    named
      .filter(({ more }) => more !== null)
      .map(async (family) => ({ family, alike: (await api.familySignal(signals.sounds, family)).tracks })),
  );
  const sensitivity =
    order.sensitivity === null
      ? (profile?.sensitivity ?? {})
      : Object.fromEntries(HIT_KINDS.map((kind) => [kind, order.sensitivity!]));
  const role = about.video ? 'footage' : 'music';
  const { hits, faint, delay } = findHits(
    { id: 'input', role, tracks: [], delay: profile?.delay ?? null, content },
    signals,
    { sensitivity, watches, examples: [...examples, ...(profile?.examples ?? [])], families: sought },
  );
  const grid = sound ? editedGrid(sound, DEFAULT_GRID, order.sensitivity ?? 0.5) : null;
  const times = picture ? frameTimesOf(picture.times, picture.lastDuration) : null;
  const place = (t: number) => ({
    t: times ? times.timeOf(times.indexAt(t)) : t,
    frame: times ? times.indexAt(t) : null,
  });
  // A question gets its answer alone, unless other kinds are asked for by name.
  const kinds =
    order.kinds ??
    (order.like || order.region ? [...(order.like ? ['match'] : []), ...(order.region ? ['popup'] : [])] : null);
  const unheard = new Set(faint.map(({ id }) => id));
  const all = [...hits, ...faint].sort((a, b) => a.t - b.t);
  const sorted = sound ? familiesOf(all, kinshipOf(all, [sound], named), KIN, named) : [];
  const sortedOf = new Map(sorted.flatMap((family) => family.members.map((i) => [i, family] as const)));
  const isListed = (hit: Hit, i: number): boolean => {
    const family = sortedOf.get(i);
    const answer = family?.named?.state;
    // What a profile knows as no hit is none, nor is a part of another sound; what it knows as one is.
    if (answer === 'rejected' || family?.satellite || (unheard.has(hit.id) && answer !== 'kept')) return false;
    const kind = kindOf(hit, family);
    return (
      hit.confidence >= order.minConfidence &&
      (kinds
        ? kinds.some((name) => name === kind || name === family?.named?.name || isOfKind(hit, name as HitKind))
        : kind !== 'cut' && kind !== 'beat')
    );
  };
  const places = new Map<number, number>();
  all.forEach((hit, i) => isListed(hit, i) && places.set(i, places.size));
  const listed = [...places.keys()].map((i) => all[i]!);
  const families = sorted
    .map((family) => ({ ...family, members: family.members.flatMap((i) => places.get(i) ?? []) }))
    .filter(({ named, members }) => members.length > (named ? 0 : 1));
  const familyOf = new Map(families.flatMap((family) => family.members.map((i) => [i, family] as const)));
  return {
    duration: about.duration,
    fps: times ? fps(times.rate) : null,
    hits: listed.map((hit, i) => ({
      // Without a picture's own evidence the attack in the sound is the finer truth.
      ...place(hit.t),
      t: isSeen(hit) ? place(hit.t).t : hit.t,
      audioT: hit.audioT ?? null,
      kind: kindOf(hit, familyOf.get(i)),
      strength: hit.strength,
      confidence: hit.confidence,
      kinds: hit.kinds ?? { [hit.kind]: hit.confidence },
      evidence: hit.evidence,
      burst: hit.burst ?? null,
      family: familyOf.get(i)?.id ?? null,
    })),
    families: families.map(({ id, kind, confidence, members, example, named }) => ({
      id,
      name: named?.name || null,
      kind,
      confidence,
      size: members.length,
      example,
      members,
    })),
    beats: grid ? [...grid.beats] : [],
    downbeats: grid ? [...grid.downbeats] : [],
    tempo: !grid?.tempi.length ? null : grid.tempi.length > 1 ? [...grid.tempi] : grid.tempi[0]!.bpm,
    audioDelay: delay.seconds,
    notes,
    cuts: hits.filter((hit) => hit.kind === 'cut').map((hit) => place(hit.t)),
  };
}

/** What a profile says that a hit is, else what it was found as. */
const kindOf = (hit: Hit, family: Family | undefined): HitKind =>
  family?.named?.state === 'kept' ? family.named.kind : hit.kind;

function exampleOf(
  sound: SoundSignals | null,
  [from, to]: readonly [number, number],
): NonNullable<Asked['examples']>[number] {
  if (!sound) throw new EngineError('nothing-to-do', 'There is no sound to find anything like it in.');
  try {
    const { rows, lead } = exampleFrom(sound, from, to);
    return { id: 'asked', rows: fromByteArray(rows), lead, least: LIKE_ENOUGH, only: null };
  } catch (error) {
    throw error instanceof RangeError ? new EngineError('nothing-to-do', error.message) : error;
  }
}

/** A recording with what was found in it. */
export interface SearchedRecording {
  readonly source: Source;
  readonly hits: RecordingAnalysis['hits'];
}

/**
 * A montage of the strongest moments.
 * @throws EngineError where nothing was found that it could show
 */
export function composeBest(
  name: string,
  recordings: readonly SearchedRecording[],
  accents: readonly Accent[],
  order: BestOf,
): Montage {
  let count = 0;
  const found = recordings.map(({ source, hits }) => ({
    source,
    hits: hits.map(({ t, audioT, kind, strength, confidence, evidence }): Hit => ({
      ...{ t, kind, strength, confidence, evidence, state: 'found' },
      id: `hit-${++count}`,
      source: source.id,
      ...(audioT !== null && { audioT }),
    })),
  }));
  const montage = bestOf(name, found, accents, order);
  if (!montage.clips.length)
    throw new EngineError('nothing-to-do', `Nothing was found in ${name} that a montage could show.`);
  return montage;
}
