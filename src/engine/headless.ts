/** The engine's page for the command line: no interface, three calls on `window.akmeon`. */
import { isOfKind } from '../core/document/hits.ts';
import { fromByteArray } from 'base64-js';
import { editedGrid } from '../core/finding/beats/edit.ts';
import { findHits, type Asked } from '../core/finding/detectors/index.ts';
import { inFormat } from '../core/document/formats.ts';
import { readAccents } from '../core/document/accents.ts';
import { readMontage, writeMontage } from '../core/document/akmeon.ts';
import { readProfile } from '../core/document/profile-file.ts';
import { FormatError } from '../core/document/document.ts';
import { bestOf, type BestOf } from '../core/timeline/best-of.ts';
import { frameTimesOf } from '../core/timeline/frame-times.ts';
import { familiesOf, KIN, kinshipOf, type Family } from '../core/finding/families/families.ts';
import { isSeen } from '../core/finding/hits/fusion.ts';
import { exampleFrom, LIKE_ENOUGH } from '../core/finding/likeness/likeness.ts';
import {
  HIT_KINDS,
  DEFAULT_GRID,
  type Content,
  type Hit,
  type HitKind,
  type Kinds,
  type Montage,
  type Region,
  type Source,
  type VideoInfo,
} from '../core/document/types.ts';
import type { SoundSignals } from '../core/finding/signals/types.ts';
import { fps } from '../core/base/time.ts';
import { EXPORT_KINDS, type SoundChoice } from './export/kinds.ts';
import type { RendererChoice } from './render/choose.ts';
import {
  EngineError,
  fingerprintAt,
  Jobs,
  startAnalyser,
  startExporter,
  proxy,
  sentence,
  type ExportProgress,
  type ExportResult,
  type ListedStarts,
} from './index.ts';

export type HeadlessReply<T> = { ok: true; value: T } | { ok: false; input: boolean; message: string };

export interface HeadlessAnalysis {
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

export type HeadlessRender = ExportResult;

export interface AnalyseOrder {
  url: string;
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

export interface ComposeOrder {
  url: string;
  name: string;
  hits: HeadlessAnalysis['hits'];
  /** Texts of `.akmeon-accent` files. */
  accents: readonly string[];
  order: BestOf;
}

export interface RenderOrder {
  text: string;
  base: string;
  names: readonly string[];
  /** Name of one of the montage's formats; null: its own shape. */
  format: string | null;
  width: number | null;
  height: number | null;
  sound: SoundChoice;
  /** Id of a kind of file; null: the first. */
  kind: string | null;
  /** What nothing touches is taken over as it came. */
  copy: boolean;
  /** First frame, and the one after the last; null: all. */
  range: readonly [number, number] | null;
  readonly renderer: RendererChoice;
}

const FAULTS_OF_INPUT = new Set([
  'not-media',
  'empty',
  'truncated',
  'no-tracks',
  'no-frames',
  'video-codec',
  'audio-codec',
  'hdr',
  'unreadable',
  'media-missing',
  'nothing-to-do',
  'stuck',
]);

/** What hangs on a damaged file ends with a sentence, and its worker with it. */
const jobs = new Jobs(() => undefined);

async function answer<T>(work: () => Promise<T>): Promise<HeadlessReply<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (error) {
    const input = error instanceof FormatError || (error instanceof EngineError && FAULTS_OF_INPUT.has(error.code));
    return { ok: false, input, message: sentence(error) };
  }
}

const analyse = (order: AnalyseOrder): Promise<HeadlessReply<HeadlessAnalysis>> =>
  answer(() =>
    jobs.run({ kind: 'analyse', owner: '', label: `Reading ${order.name}` }, async (job) => {
      const api = job.use(startAnalyser());
      const profile = order.profile === null ? null : readProfile(order.profile);
      const location = { url: order.url };
      // An empty file has no bytes to ask a range of.
      const head = await fetch(order.url, { method: 'HEAD' });
      if (head.headers.get('Content-Length') === '0')
        throw new EngineError('empty', `${order.name} is empty (0 bytes).`);
      const about = await api.describe(location, order.name);
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
        proxy((share: number) => job.progress(share)),
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
          proxy((share: number) => job.progress(share)),
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
    }),
  );

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

const render = (order: RenderOrder): Promise<HeadlessReply<HeadlessRender>> =>
  answer(() =>
    jobs.run({ kind: 'export', owner: '', label: 'Rendering' }, async (job) => {
      const montage = formatted(readMontage(order.text), order.format);
      const missing = montage.sources.find((source) => !order.names.includes(source.name));
      if (missing) throw new EngineError('media-missing', `${missing.name} is not in the media folder.`);
      const locations = new Map(
        montage.sources.map((source) => [source.id, { url: `${order.base}/media/${encodeURIComponent(source.name)}` }]),
      );
      const listed: Record<string, ListedStarts[string]> = {};
      /** Where the document and the file differ on whether frames come regularly, the file is right. */
      const videos = new Map<string, VideoInfo>();
      const analyser = job.use(startAnalyser());
      for (const source of montage.sources) {
        job.progress(null);
        const location = locations.get(source.id)!;
        if ((await fingerprintAt(location.url)) !== source.fingerprint)
          throw new EngineError(
            'media-missing',
            `${source.name} in the media folder is not the file that the montage was made with: its content differs.`,
          );
        if (!source.video) continue;
        // What the montage knows as variable is listed frame by frame, however regular it begins.
        const about = await analyser.describe(location, source.name, source.video.variable);
        if (about.video && about.video.variable !== source.video.variable) videos.set(source.id, about.video);
        if (about.starts) listed[source.id] = { starts: about.starts, lastDuration: about.lastDuration };
      }
      const { width, height, timing } = montage.settings;
      return await job.use(startExporter()).run(
        {
          montage: {
            ...montage,
            sources: montage.sources.map((source) => ({ ...source, video: videos.get(source.id) ?? source.video })),
          },
          locations,
          listed,
          options: {
            width: order.width ?? width,
            height: order.height ?? height,
            timing,
            sound: order.sound,
            copy: order.copy,
            ...(order.kind !== null && { kind: knownKind(order.kind) }),
            ...(order.range && { range: { from: order.range[0], to: order.range[1] } }),
            renderer: order.renderer,
          },
        },
        { kind: 'server', url: `${order.base}/out` },
        proxy((state: ExportProgress) => job.progress(state.frame / Math.max(1, state.count))),
      );
    }),
  );

/** A montage of one recording's strongest moments; its text. */
const compose = (order: ComposeOrder): Promise<HeadlessReply<string>> =>
  answer(() =>
    jobs.run({ kind: 'bring-in', owner: '', label: `Composing ${order.name}` }, async (job) => {
      const about = await job.use(startAnalyser()).describe({ url: order.url }, order.name);
      if (!about.video) throw new EngineError('no-frames', `${order.name} has no picture: there is nothing to show.`);
      const listen = about.audio.findIndex((track) => track.readable);
      const source: Source = {
        id: 'recording',
        name: order.name.slice(0, 500),
        role: 'footage',
        fingerprint: await fingerprintAt(order.url),
        size: Number((await fetch(order.url, { method: 'HEAD' })).headers.get('Content-Length')),
        duration: about.duration,
        video: about.video,
        audio: about.audio,
        listen: listen < 0 ? null : listen,
        tracks: about.audio.map(() => 'game'),
        delay: null,
        grid: DEFAULT_GRID,
        content: 'unsaid',
      };
      const hits = order.hits.map(({ t, audioT, kind, strength, confidence, evidence }, i): Hit => ({
        ...{ t, kind, strength, confidence, evidence, state: 'found' },
        id: `hit-${i + 1}`,
        source: source.id,
        ...(audioT !== null && { audioT }),
      }));
      const accents = order.accents.flatMap((text) => readAccents(text).accents);
      const montage = bestOf(source, hits, accents, order.order);
      if (!montage.clips.length)
        throw new EngineError('nothing-to-do', `Nothing was found in ${order.name} that a montage could show.`);
      return writeMontage(montage);
    }),
  );

/** @throws EngineError where the montage has no format of that name */
function formatted(montage: Montage, name: string | null): Montage {
  const format = montage.formats.find((one) => one.name === name);
  if (name !== null && !format)
    throw new EngineError(
      'nothing-to-do',
      `The montage has no format "${name}": it has ${montage.formats.map((one) => one.name).join(', ') || 'none but its own shape'}.`,
    );
  return inFormat(montage, format?.id ?? null);
}

declare global {
  interface Window {
    akmeon: { analyse: typeof analyse; compose: typeof compose; render: typeof render };
  }
}
window.akmeon = { analyse, compose, render };

/** @throws EngineError where there is no such kind of file */
function knownKind(id: string): string {
  if (EXPORT_KINDS.some((kind) => kind.id === id)) return id;
  throw new EngineError('encoder', `There is no kind "${id}": ${EXPORT_KINDS.map((kind) => kind.id).join(', ')} are.`);
}
