/** The engine's page for the command line: no interface, two calls on `window.akmeon`. */
import { beatGrid, hasBeat } from '../core/detectors/beats.ts';
import { DETECTORS, findHits } from '../core/detectors/index.ts';
import { FormatError, readMontage } from '../core/formats/akmeon.ts';
import { frameTimesOf } from '../core/media/frame-times.ts';
import type { Hit, Montage } from '../core/montage/types.ts';
import { fps } from '../core/units/time.ts';
import { EngineError, hireAnalyser, hireExporter, proxy, sentence, type ListedStarts } from './index.ts';

export type HeadlessReply<T> = { ok: true; value: T } | { ok: false; input: boolean; message: string };

export interface HeadlessAnalysis {
  duration: number;
  fps: number | null;
  hits: { t: number; frame: number | null; kind: string; strength: number; confidence: number; evidence: Hit['evidence'] }[];
  beats: number[];
  /** Beats a minute; a list where it changes; null without beats. */
  tempo: number | { t: number; bpm: number }[] | null;
  cuts: { t: number; frame: number | null }[];
}

export interface HeadlessRender { frames: number; rendered: number; passedThrough: number; duration: number }

interface AnalyseOrder { url: string; name: string; track: number | null; sensitivity: number | null }
interface RenderOrder {
  text: string; base: string; names: readonly string[];
  width: number | null; height: number | null; sound: 'aac' | 'opus' | 'none';
}

const FAULTS_OF_INPUT = new Set(['not-media', 'empty', 'truncated', 'no-tracks', 'no-frames', 'video-codec', 'audio-codec', 'hdr', 'unreadable', 'media-missing', 'nothing-to-do']);

async function answer<T>(work: () => Promise<T>): Promise<HeadlessReply<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (error) {
    const input = error instanceof FormatError || (error instanceof EngineError && FAULTS_OF_INPUT.has(error.code));
    return { ok: false, input, message: sentence(error) };
  }
}

const analyse = (order: AnalyseOrder): Promise<HeadlessReply<HeadlessAnalysis>> => answer(async () => {
  const { door, end } = hireAnalyser();
  try {
    const location = { url: order.url };
    // An empty file has no bytes to ask a range of.
    const head = await fetch(order.url, { method: 'HEAD' });
    if (head.headers.get('Content-Length') === '0') throw new EngineError('empty', `${order.name} is empty (0 bytes).`);
    const about = await door.describe(location, order.name);
    const readable = about.audio.findIndex((track) => track.readable);
    const track = order.track === null ? (readable < 0 ? null : readable) : order.track - 1;
    if (track !== null && !about.audio[track]) throw new EngineError('no-tracks', `${order.name} has ${about.audio.length} sound tracks; number ${order.track} was asked for.`);
    if (track !== null && !about.audio[track]!.readable) throw new EngineError('audio-codec', `Sound track ${track + 1} is coded as ${about.audio[track]!.codec}, which this browser cannot decode.`);
    const { signals } = await door.analyse(location, { name: order.name, track, picture: about.video !== null, duration: about.duration }, proxy(() => undefined));
    const sensitivity = order.sensitivity === null ? {} : Object.fromEntries(DETECTORS.map((detector) => [detector.id, order.sensitivity!]));
    const found = findHits({ id: 'input', role: about.video ? 'footage' : 'music' }, signals, sensitivity);
    const grid = signals.sound && hasBeat(signals.sound) ? beatGrid(signals.sound) : { beats: [], tempi: [] };
    const picture = signals.picture;
    const times = picture ? frameTimesOf(picture.times, picture.lastDuration) : null;
    const place = (hit: Hit) => ({ t: times ? times.timeOf(times.indexAt(hit.t)) : hit.t, frame: times ? times.indexAt(hit.t) : null });
    return {
      duration: about.duration,
      fps: times ? fps(times.rate) : null,
      hits: found.filter((hit) => hit.kind !== 'cut' && hit.kind !== 'beat').map((hit) => ({
        // Without a picture's own evidence the attack in the sound is the finer truth.
        ...place(hit), t: hit.evidence.some((e) => e.detector === 'flash') ? place(hit).t : hit.t,
        kind: hit.kind, strength: hit.strength, confidence: hit.confidence, evidence: hit.evidence,
      })),
      beats: [...grid.beats], tempo: grid.tempi.length > 1 ? [...grid.tempi] : (grid.tempi[0]?.bpm ?? null),
      cuts: found.filter((hit) => hit.kind === 'cut').map(place),
    };
  } finally {
    end();
  }
});

const render = (order: RenderOrder): Promise<HeadlessReply<HeadlessRender>> => answer(async () => {
  const montage: Montage = readMontage(order.text);
  const missing = montage.sources.find((source) => !order.names.includes(source.name));
  if (missing) throw new EngineError('media-missing', `${missing.name} is not in the media folder.`);
  const locations = new Map(montage.sources.map((source) => [source.id, { url: `${order.base}/media/${encodeURIComponent(source.name)}` }]));
  const listed: Record<string, ListedStarts[string]> = {};
  const analyser = hireAnalyser();
  try {
    for (const source of montage.sources) {
      const about = await analyser.door.describe(locations.get(source.id)!, source.name);
      if (about.starts) listed[source.id] = { starts: about.starts, lastDuration: about.lastDuration };
    }
  } finally {
    analyser.end();
  }
  const exporter = hireExporter();
  try {
    const { width, height, timing } = montage.settings;
    return await exporter.door.run({
      montage, locations, listed,
      options: { width: order.width ?? width, height: order.height ?? height, timing, sound: order.sound },
    }, { url: `${order.base}/out` }, proxy(() => undefined));
  } finally {
    exporter.end();
  }
});

declare global {
  interface Window {
    akmeon: { analyse: typeof analyse; render: typeof render };
  }
}
window.akmeon = { analyse, render };
