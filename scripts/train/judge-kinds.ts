/**
 * Judges the shots and impacts that the whole engine finds, at the usual sensitivities, in made-up recordings: over music
 * and in games of packages that were never trained on, and, for comparison, of shots trained on over that music:
 *   npm run judge [-- kinds --pieces 24 --games 130 --weights FILE.json --write]
 * The practice set has 25 shots over music, where one more or less is four hundredths; here are about 900.
 * Needs what `npm run train` needs, and about five minutes once its packages are there.
 */
import { isBlow } from '../../src/core/document/hits.ts';
import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { findHits } from '../../src/core/finding/detectors/index.ts';
import { kindBytes, classifier, type PackedModel } from '../../src/core/finding/kinds/model.ts';
import type { Hit } from '../../src/core/document/types.ts';
import { ANALYSIS_RATE } from '../../src/core/finding/signals/spectrum.ts';
import { SIGNALS_VERSION, type SoundSignals } from '../../src/core/finding/signals/types.ts';
import { Chance } from './chance.ts';
import { analysed, standsOut } from './examples.ts';
import { leadIn, mixture, power } from './mixtures.ts';
import { TRAINING, VALIDATION } from './packages.ts';
import { count, fOf, none, type Score, type True } from './scoring.ts';
import { figures } from '../figures.ts';
import { load, prepare, type Sound } from './sounds.ts';

const { values } = parseArgs({
  options: {
    pieces: { type: 'string', default: '24' },
    games: { type: 'string', default: '130' },
    weights: { type: 'string' },
    write: { type: 'boolean', default: false },
  },
});

/** How often each class comes is asked of the shipped network all the same. */
const tell =
  values.weights === undefined
    ? kindBytes
    : classifier(JSON.parse(readFileSync(values.weights, 'utf8')) as PackedModel);

const SECONDS = 36;
/** Decibels of a shot's first 250 ms against the piece. */
const OVER = [-17, -2] as const;
/** Weapons of one piece, fired again and again. */
const WEAPONS = 8;

interface Piece {
  readonly samples: Float32Array;
  readonly bed: SoundSignals;
}

const blows = (sound: SoundSignals): readonly Hit[] =>
  findHits(
    { id: 'judged', role: 'footage', tracks: [], delay: null },
    { version: SIGNALS_VERSION, sounds: { 0: sound }, picture: null },
  ).hits.filter(isBlow);

const lines: string[] = [];
const row = (what: string, { found, wanted, false: wrong }: Score, more = ''): void =>
  void lines.push(
    `| ${what} | ${wanted} | ${(found / (found + wrong)).toFixed(3)} | ${(found / wanted).toFixed(3)} | ${fOf({ found, wanted, false: wrong }).toFixed(3)} | ${more} |`,
  );

/** A piece of music with these weapons over it, and when they are fired. */
function fired(
  { samples: piece, bed }: Piece,
  weapons: readonly Sound[],
  c: Chance,
): { samples: Float32Array; truth: True[] } {
  const under = power(piece);
  const samples = piece.slice();
  const truth: True[] = [];
  for (let t = c.between(0.5, 1.5); t < piece.length / ANALYSIS_RATE - 1; t += c.between(0.3, 1.6)) {
    const shot = c.pick(weapons).samples;
    const lead = leadIn(shot);
    const gain = Math.sqrt(under / power(shot, lead, lead + ANALYSIS_RATE / 4)) * 10 ** (c.between(...OVER) / 20);
    const [times, gap] = [c.yes(0.12) ? c.whole(3, 5) : 1, c.between(0.1, 0.2)];
    const own = shot.map((value) => value * gain);
    for (let k = 0; k < times; k++) {
      const at = Math.floor((t + k * gap) * ANALYSIS_RATE);
      for (let i = Math.max(0, lead - at); i < own.length && at - lead + i < samples.length; i++)
        samples[at - lead + i]! += own[i]!;
      truth.push({ t: t + k * gap, out: standsOut({ at, samples: own }, bed) });
    }
    t += (times - 1) * gap;
  }
  return { samples, truth };
}

await prepare({ ...TRAINING, ...VALIDATION });
const apart = load(VALIDATION);
const music = apart.filter(({ use }) => use === 'music');
const weapons = {
  unseen: apart.filter(({ use }) => use === 'shot'),
  'trained on': load(TRAINING).filter(({ use }) => use === 'shot'),
};
const pieces = Array.from({ length: Number(values.pieces) }, (_, k) => {
  const { samples } = music[Math.floor((k * music.length) / Number(values.pieces))]!;
  const from = Math.floor(samples.length * 0.4);
  return samples.slice(from, from + SECONDS * ANALYSIS_RATE);
})
  .filter(({ length }) => length >= 20 * ANALYSIS_RATE)
  .map((samples): Piece => ({ samples, bed: analysed(samples, tell) }));

lines.push('| what | attacks | precision | recall | F | |', '|---|---|---|---|---|---|');
const alone =
  pieces.reduce((sum, { bed }) => sum + blows(bed).length, 0) /
  (pieces.reduce((sum, { samples }) => sum + samples.length, 0) / ANALYSIS_RATE / 60);
for (const [name, sounds] of Object.entries(weapons)) {
  const c = new Chance(777);
  const score = none();
  for (const piece of pieces) {
    const { samples, truth } = fired(
      piece,
      Array.from({ length: WEAPONS }, () => c.pick(sounds)),
      c,
    );
    count(score, truth, blows(analysed(samples, tell)), ({ kind }) => kind === 'shot');
  }
  row(`shots ${name}, over music`, score, `in the music alone ${alone.toFixed(1)} false shots and impacts a minute`);
}
const games = { 'with music': { shot: none(), impact: none() }, 'without music': { shot: none(), impact: none() } };
for (let k = 0; k < Number(values.games); k++) {
  const { bed, whole, events, bedClasses } = mixture(apart, 30, 170 * 100003 + k);
  const under = analysed(bed);
  const hits = blows(analysed(whole, tell));
  const truth = events
    .map((event) => ({ t: event.at / ANALYSIS_RATE, out: standsOut(event, under), classes: event.classes }))
    .filter(({ out }) => out > 0);
  for (const kind of ['shot', 'impact'] as const)
    count(
      games[bedClasses.length > 1 ? 'with music' : 'without music'][kind],
      truth.filter(({ classes }) => classes.length === 1 && classes[0] === kind),
      hits.filter((hit) => hit.kind === kind),
      () => true,
    );
}
for (const [name, scores] of Object.entries(games))
  for (const [kind, score] of Object.entries(scores)) row(`${kind}s, unseen games ${name}`, score);
figures('kinds', lines, values.write);
