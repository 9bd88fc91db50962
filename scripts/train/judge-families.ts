/**
 * Judges what answers about families are worth in recordings of packages that nothing was trained on: games without
 * music, halls, and games with music; in each 2 to 6 weapons or blows come again and again, and so do decoys:
 *   npm run judge -- families [--recordings 60] [--seconds 45] [--cut 0.5] [--more 0.55] [--seed 1] [--write]
 * Answers are given by truth: a family is kept when more than half of its members are true. F after 0 answers is that of
 * kinds alone, shots and impacts taken alike.
 */
import { parseArgs } from 'node:util';
import type { Hit } from '../../src/core/document/types.ts';
import { findHits } from '../../src/core/finding/detectors/index.ts';
import {
  countsAsHit,
  examplesOf,
  familiesOf,
  KIN,
  kinshipOf,
  takeExamples,
  worthAsking,
} from '../../src/core/finding/families/families.ts';
import { likenessToFamily, MORE_ENOUGH } from '../../src/core/finding/families/more.ts';
import { kindBytes } from '../../src/core/finding/kinds/model.ts';
import { ANALYSIS_RATE } from '../../src/core/finding/signals/spectrum.ts';
import { SIGNALS_VERSION } from '../../src/core/finding/signals/types.ts';
import { Chance } from './chance.ts';
import { analysed, standsOut } from './examples.ts';
import { leadIn, power } from './mixtures.ts';
import { VALIDATION } from './packages.ts';
import { count, fOf, NEAR, none, type True } from './scoring.ts';
import { figures } from '../figures.ts';
import { load, prepare, resample, type Sound } from './sounds.ts';

const { values } = parseArgs({
  options: {
    recordings: { type: 'string', default: '60' },
    seconds: { type: 'string', default: '45' },
    cut: { type: 'string', default: String(KIN) },
    more: { type: 'string', default: String(MORE_ENOUGH) },
    seed: { type: 'string', default: '1' },
    write: { type: 'boolean', default: false },
  },
});
const SECONDS = Number(values.seconds);
const ANSWERS = [0, 1, 3, 5, 10, Infinity] as const;
const SORTS = ['games without music', 'halls', 'games with music'] as const;
type Sort = (typeof SORTS)[number];

await prepare(VALIDATION);
const sounds = load(VALIDATION);
const of = (use: Sound['use']): readonly Sound[] => sounds.filter((sound) => sound.use === use);
const [shots, impacts, others, steps, voices, music, ambience] = (
  ['shot', 'impact', 'other', 'step', 'voice', 'music', 'ambience'] as const
).map(of) as unknown as Record<number, readonly Sound[]> & Iterable<readonly Sound[]> as readonly (readonly Sound[])[];

/** Something that a recording plays again: samples in turn, some pitched anew each time, some heard from afar too. */
interface Repeated {
  readonly samples: readonly Float32Array[];
  readonly pitched: boolean;
  readonly afar: number;
  readonly hit: boolean;
  /** How often it comes against the others, and decibels over the bed. */
  readonly weight: number;
  readonly over: number;
}

function repeated(from: readonly Sound[], hit: boolean, over: number, c: Chance): Repeated {
  return {
    samples: Array.from({ length: c.yes(0.3) ? c.whole(2, 3) : 1 }, () =>
      c.pick(from).samples.slice(0, 1.2 * ANALYSIS_RATE),
    ),
    pitched: c.yes(0.2),
    afar: c.yes(0.4) ? c.between(0.2, 0.6) : 0,
    hit,
    weight: c.between(0.4, 1.6),
    over,
  };
}

/** Behind a wall or across a pitch: duller and fainter. */
function fromAfar(samples: Float32Array): Float32Array {
  let low = 0;
  return samples.map((value) => (low += (value - low) * 0.25) * 0.5);
}

function recording(sort: Sort, c: Chance): { samples: Float32Array; truth: True[] } {
  const length = SECONDS * ANALYSIS_RATE;
  const bed = new Float32Array(length);
  const lay = (from: Float32Array, decibels: number): void => {
    const start = c.whole(0, Math.max(0, from.length - length));
    const gain = 10 ** (decibels / 20) / Math.sqrt(power(from));
    for (let i = 0; i < length; i++) bed[i]! += (from[(start + i) % from.length] ?? 0) * gain;
  };
  lay(
    Float32Array.from({ length: ANALYSIS_RATE }, () => c.signed()),
    -55,
  );
  if (sort === 'games with music')
    lay(c.pick(music!.filter(({ samples }) => samples.length > 20 * ANALYSIS_RATE)).samples, -20);
  else if (sort === 'halls')
    for (let k = 0; k < 8; k++) {
      const talk = new Float32Array(length);
      for (let at = c.whole(0, ANALYSIS_RATE); at < length;) {
        const word = c.pick(voices!).samples;
        talk.set(word.subarray(0, length - at), at);
        at += word.length + c.whole(0, ANALYSIS_RATE / 3);
      }
      lay(talk, -38);
    }
  else if (c.yes(0.8))
    lay(c.pick(ambience!.filter(({ samples }) => samples.length > ANALYSIS_RATE)).samples, c.between(-42, -28));
  const under = Math.max(1e-6, power(bed));
  const [least, most] = sort === 'games with music' ? [-8, 10] : [-2, 16];
  const level = (): number => c.between(least, most);
  const kinds: Repeated[] = [
    ...Array.from({ length: c.whole(2, 6) }, () =>
      repeated(sort === 'halls' ? impacts! : c.yes(0.75) ? shots! : impacts!, true, level(), c),
    ),
    ...Array.from({ length: c.whole(2, 5) }, () =>
      repeated(c.pick([others!, others!, steps!, voices!]), false, level() - 2, c),
    ),
  ];
  const all = kinds.reduce((sum, { weight }) => sum + weight, 0);
  const whole = bed.slice();
  const events: { at: number; samples: Float32Array; hit: boolean }[] = [];
  for (let t = c.between(0.4, 1.2); t < SECONDS - 1.3; t += c.yes(0.2) ? c.between(0.09, 0.3) : c.between(0.25, 0.9)) {
    let draw = c.next() * all;
    const kind = kinds.find(({ weight }) => (draw -= weight) <= 0) ?? kinds[0]!;
    let own = c.pick(kind.samples);
    if (kind.pitched) own = resample(own, 2 ** c.between(-1 / 12, 1 / 12));
    if (c.yes(kind.afar)) own = fromAfar(own);
    const lead = leadIn(own);
    const gain =
      Math.sqrt(under / power(c.pick(kind.samples), lead, lead + ANALYSIS_RATE / 4)) *
      10 ** ((kind.over + c.between(-3, 3)) / 20);
    own = own.map((value) => value * gain);
    const at = Math.floor(t * ANALYSIS_RATE);
    for (let i = 0; i < own.length && at - lead + i < length; i++) whole[at - lead + i]! += own[i]!;
    events.push({ at, samples: own.subarray(lead), hit: kind.hit });
  }
  const heard = analysed(bed);
  const truth = events
    .filter(({ hit }) => hit)
    .map((event) => ({ t: event.at / ANALYSIS_RATE, out: standsOut(event, heard) }))
    .filter(({ out }) => out > 0);
  return { samples: whole, truth };
}

/** Seconds within which what is sought below the sensitivity is a hit already. */
const ONE_MOMENT = 0.03;
const least = Number(values.more);
/** What was found in addition, and how much of it is true. */
const more = { right: 0, all: 0 };

interface Result {
  /** F after so many answers, and were every hit answered by itself. */
  readonly scores: number[][];
  readonly best: number[];
  /** Answers until nine tenths of what all of them gain. */
  readonly asked: number[];
}
const results = new Map<Sort, Result>(SORTS.map((sort) => [sort, { scores: [], best: [], asked: [] }]));
for (let k = 0; k < Number(values.recordings); k++) {
  const sort = SORTS[k % SORTS.length]!;
  const c = new Chance(Number(values.seed) * 7919 + k);
  const { samples, truth } = recording(sort, c);
  const sound = analysed(samples, kindBytes);
  const found = findHits(
    { id: 'judged', role: 'footage', tracks: [], delay: null },
    { version: SIGNALS_VERSION, sounds: { 0: sound }, picture: null },
  );
  // What is no hit by itself may be of a family that is.
  const faint = new Set(found.faint.map(({ id }) => id));
  const counts = (hit: Hit): boolean => hit.state === 'kept' || (countsAsHit(hit) && !faint.has(hit.id));
  let hits: readonly Hit[] = [...found.hits, ...found.faint];
  const families = familiesOf(hits, kinshipOf(hits, [sound]), Number(values.cut));
  const isTrue = (hit: Hit): boolean => truth.some(({ t }) => Math.abs(t - hit.audioT!) <= NEAR);
  const extra: Hit[] = [];
  const f = (): number => {
    const score = none();
    count(score, truth, [...hits, ...extra].filter(counts));
    return fOf(score);
  };
  const scores = [f()];
  const single = none();
  count(
    single,
    truth,
    hits.filter((hit) => hit.audioT !== undefined && isTrue(hit)),
  );
  const open = new Set(families.map(({ id }) => id));
  for (;;) {
    const next = worthAsking(hits, families, counts).find(({ family }) => open.has(family.id))?.family;
    if (!next) break;
    open.delete(next.id);
    const right = next.members.filter((i) => isTrue(hits[i]!)).length;
    const state = right > next.members.length / 2 ? 'kept' : 'rejected';
    const members = new Set(next.members);
    const answered = next.members.map((i) => hits[i]!);
    hits = hits.map((hit, i) => (members.has(i) ? { ...hit, state } : hit));
    if (state === 'kept' && least > 0) {
      const own = examplesOf({ examples: takeExamples(answered, [sound]) });
      likenessToFamily(sound, own).forEach((likeness, attack) => {
        if (likeness < 255 * least) return;
        const t = sound.attacks[attack]!;
        const known = hits.find((hit) => Math.abs(hit.audioT! - t) < ONE_MOMENT);
        // What is a hit already is not found twice; what was none by itself is one now.
        if (known && known.state === 'found' && !counts(known)) {
          faint.delete(known.id);
          hits = hits.map((hit) => (hit === known ? { ...hit, kind: 'shot' } : hit));
        } else if (!known && !extra.some((hit) => Math.abs(hit.t - t) < ONE_MOMENT))
          extra.push({ ...answered[0]!, t, audioT: t, id: `more ${t}`, kind: 'shot', state: 'found' });
      });
    }
    scores.push(f());
  }
  more.right += extra.filter(isTrue).length;
  more.all += extra.length;
  const { scores: rows, asked, best } = results.get(sort)!;
  best.push(fOf(single));
  rows.push(ANSWERS.map((n) => scores[Math.min(n, scores.length - 1)]!));
  // Answers until nine tenths of what all of them gain.
  const [first, last] = [scores[0]!, scores.at(-1)!];
  asked.push(last > first + 0.02 ? scores.findIndex((score) => score >= first + 0.9 * (last - first)) : 0);
}
const mean = (list: readonly number[]): string => (list.reduce((a, b) => a + b, 0) / list.length).toFixed(2);
const lines: string[] = [];
lines.push(
  `| recordings | kinds alone | ${ANSWERS.slice(1)
    .map((n) => (n === Infinity ? 'all' : n))
    .join(' | ')} | every hit by itself | answers to nine tenths, median |`,
);
lines.push(`|---|${ANSWERS.map(() => '---|').join('')}---|---|`);
for (const [sort, { scores, asked, best }] of results)
  lines.push(
    `| ${scores.length} ${sort} | ${ANSWERS.map((_, i) => mean(scores.map((row) => row[i]!))).join(' | ')} | ${mean(best)} | ${[...asked].sort((a, b) => a - b)[asked.length >> 1]} |`,
  );
lines.push(
  `\n${more.all} more found below the sensitivity, ${((100 * more.right) / Math.max(1, more.all)).toFixed(0)} % of them right.`,
);
figures('families', lines, values.write);
