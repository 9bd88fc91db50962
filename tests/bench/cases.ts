/** Runs `akmeon analyse` over cases with known truth and measures what issue and design ask of the detectors. */
import { execFile } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { RecordingAnalysis } from '../../src/engine/headless.ts';
import { score, type Score, type Truth } from './scoring.ts';

const run = promisify(execFile);

export interface Row {
  readonly what: string;
  readonly case: string;
  readonly value: number;
  /** What must be reached; `most` turns the comparison round. */
  readonly floor: number;
  readonly most?: boolean;
  readonly detail: string;
}

export const reached = ({ value, floor, most }: Row): boolean => (most ? value <= floor + 1e-9 : value >= floor - 1e-9);

export const casesIn = (folder: string): { file: string; truth: Truth }[] =>
  readdirSync(folder)
    .filter((name) => /\.(wav|flac|ogg|opus|m4a|mp3|mp4|webm|mkv)$/.test(name))
    .sort()
    .map((file) => ({
      file,
      truth: JSON.parse(readFileSync(join(folder, file.replace(/\.\w+$/, '.json')), 'utf8')) as Truth,
    }));

export async function analyse(path: string, args: readonly string[] = []): Promise<RecordingAnalysis> {
  const { stdout } = await run(process.execPath, ['build/cli.mjs', 'analyse', path, ...args, '--json'], {
    maxBuffer: 1 << 26,
  });
  return JSON.parse(stdout) as RecordingAnalysis;
}

const say = ({ precision, recall, falseAlarms, medianError }: Score): string =>
  `P ${precision.toFixed(2)} R ${recall.toFixed(2)}, ${falseAlarms} false${medianError === null ? '' : `, median error ${medianError.toFixed(1)} ms`}`;

/** All figures of one case, by what its truth holds. */
export async function measure(folder: string, file: string, truth: Truth): Promise<Row[]> {
  const path = join(folder, file);
  const name = file.replace(/\.\w+$/, '');
  const found = await analyse(path);
  const tolerance = truth.tolerance ?? 0.05;
  const hits = truth.hits ?? [];
  const rows: Row[] = [];
  const add = (what: string, value: number, floor: number, detail: string, most = false): void =>
    void rows.push({ what, case: name, value, floor, detail, ...(most ? { most } : {}) });
  // What is seen is evidence of a hit that may be named after what is heard.
  const times = (kind?: string): number[] =>
    found.hits
      .filter((hit) => !kind || hit.kind === kind || hit.evidence.some(({ detector }) => detector === kind))
      .map((hit) => hit.t);
  const ofKind = (kind: string, within = tolerance): Score => {
    const own = hits.filter((hit) => hit.kind === kind || hit.also?.includes(kind));
    return score(
      own.filter((h) => !h.optional).map((h) => h.t),
      times(kind),
      within,
      own.filter((h) => h.optional).map((h) => h.t),
    );
  };
  const kinds = new Set(hits.map((hit) => hit.kind));
  const musical = ['kick', 'snare', 'hat', 'note'];

  if (kinds.has('shot')) {
    const s = ofKind('shot');
    // Told, not asked for: names that a network learned elsewhere are suggestions, and families are what answers are given to.
    add('shots', s.f, 0, say(s));
  }
  if (kinds.has('impact')) {
    const s = ofKind('impact');
    add('impacts', s.f, 0, say(s));
  }
  if (hits.length && [...kinds].every((kind) => musical.includes(kind))) {
    const all = found.hits.filter((hit) => hit.kind !== 'drop');
    const s = score(
      hits.map((h) => h.t),
      all.map((h) => h.t),
      tolerance,
    );
    add('onsets', s.f, 0.98, say(s));
    add('onset error, ms', s.medianError ?? Infinity, 5, '', true);
    const drums = s.pairs.filter(([i]) => hits[i]!.kind !== 'note');
    if (drums.length) {
      const right =
        drums.filter(([i, k]) => [hits[i]!.kind, ...(hits[i]!.also ?? [])].includes(all[k]!.kind)).length /
        drums.length;
      add('kinds of drums', right, 0.92, `${drums.length} compared`);
    }
  }
  if (truth.beats) {
    const s = score(truth.beats, found.beats, 0.07);
    add('beats', s.f, 0.95, say(s));
    const wanted = [truth.tempo ?? []].flat();
    const heard = typeof found.tempo === 'number' ? [found.tempo] : (found.tempo ?? []).map((part) => part.bpm);
    const worst = Math.max(...wanted.map((bpm) => Math.min(1, ...heard.map((h) => Math.abs(h / bpm - 1)))), 0);
    add('tempo error', worst, 0.01, `${heard.map((h) => h.toFixed(1)).join(', ')} for ${wanted.join(', ')}`, true);
  }
  if (truth.downbeats && !kinds.has('note')) {
    const s = score(truth.downbeats, found.downbeats, 0.07);
    add('downbeats', s.f, 0.8, say(s));
  }
  const drops = [...found.hits].filter((hit) => hit.kind === 'drop').sort((a, b) => b.confidence - a.confidence);
  if (kinds.has('drop')) {
    // The fake must not be let through at all at the default sensitivity, and lie far under the drop at any.
    const t = hits.find((hit) => hit.kind === 'drop')!.t;
    add(
      'drop, error in ms',
      drops[0] ? Math.abs(drops[0].t - t) * 1000 : Infinity,
      70,
      `confidence ${drops[0]?.confidence.toFixed(2) ?? '-'}`,
      true,
    );
    const any = (await analyse(path, ['--sensitivity', '1', '--kinds', 'drop'])).hits.sort(
      (a, b) => b.confidence - a.confidence,
    );
    add('fake against drop', (any[1]?.confidence ?? 0) / (any[0]?.confidence ?? 1), 0.6, '', true);
    add('drops too many', drops.length - 1, 0, '', true);
  } else add('drops', drops.length, 0, '', true);
  if (truth.query) {
    const { hits: alike } = await analyse(path, ['--like', `${truth.query.start},${truth.query.end}`]);
    const s = score(
      hits.map((h) => h.t),
      alike.map((h) => h.t),
      tolerance,
    );
    add('more like this', s.f, 0.95, say(s));
  }
  if (!truth.fps && hits.length === 0) {
    const minutes = truth.duration / 60;
    const pad = /pad/.test(name);
    add(
      'false hits a minute',
      times().length / minutes,
      pad ? 0 : 2,
      found.hits.map((h) => `${h.kind} ${h.t.toFixed(1)}`).join(', '),
      true,
    );
  }
  if (truth.fps) {
    const frame = 1.01 / truth.fps;
    if (truth.region && truth.referenceFrame !== undefined) {
      const { x, y, w, h } = Array.isArray(truth.region)
        ? ({ x: truth.region[0], y: truth.region[1], w: truth.region[2], h: truth.region[3] } as {
            x: number;
            y: number;
            w: number;
            h: number;
          })
        : (truth.region as { x: number; y: number; w: number; h: number });
      const { hits: seen } = await analyse(path, [
        '--region',
        [x, y, w, h].join(','),
        '--reference',
        String(truth.referenceFrame),
      ]);
      const s = score(
        hits.filter((hit) => hit.kind === 'popup').map((hit) => hit.t),
        seen.map((hit) => hit.t),
        frame,
      );
      add('region watch', s.f, 1, say(s));
    }
    for (const kind of ['flash', 'jolt'] as const) {
      if (!kinds.has(kind)) continue;
      const s = ofKind(kind, frame);
      add(kind === 'flash' ? 'flashes' : 'jolts', s.f, kind === 'flash' ? 0.95 : 0.92, say(s));
    }
    if (truth.cuts) {
      const s = score(
        truth.cuts.map((cut) => cut.t),
        found.cuts.map((cut) => cut.t),
        frame,
      );
      add('cuts', s.f, 0.98, say(s));
      const on = found.hits.filter(
        (hit) =>
          hit.evidence.some(({ detector }) => detector === 'flash' || detector === 'jolt') &&
          truth.cuts!.some((cut) => Math.abs(cut.t - hit.t) < 0.05),
      ).length;
      add('flashes or jolts on cuts', on, 0, '', true);
    }
  }
  return rows;
}
