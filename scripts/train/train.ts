/**
 * Trains the model of kinds and writes src/core/kinds/weights.json and the tables of docs/detection.md:
 *   npm run train [-- --recordings 3600 --epochs 8 --from WEIGHTS.json]
 * With `--from` it goes on from weights that were trained before.
 * Needs Debian's apt-get, ffmpeg, unzip and python3 with venv, about 16 GB of disk and of memory, and about two hours the first time.
 */
import { execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { BED_AT, FEATURES, ATTACK_SPECTRA_AT } from '../../src/core/finding/kinds/features.ts';
import { ATTACK_SPECTRUM_BANDS, ATTACK_SPECTRUM_BYTES } from '../../src/core/finding/kinds/attack-spectra.ts';
import { network, probabilities, type PackedModel, type PackedNetwork } from '../../src/core/finding/kinds/model.ts';
import { BARK_BANDS, SOUND_CLASSES } from '../../src/core/finding/signals/types.ts';
import { examples, FEATURE_SCALE, type Examples } from './examples.ts';
import { Chance } from './chance.ts';
import { TRAINING, VALIDATION } from './packages.ts';
import { load, prepare } from './sounds.ts';

const { values } = parseArgs({
  options: {
    recordings: { type: 'string', default: '3600' },
    epochs: { type: 'string', default: '8' },
    from: { type: 'string' },
    part: { type: 'string' },
    set: { type: 'string' },
  },
});
const FOLDER = 'build/training/examples';
/** How much an example of each class counts: the rare ones that hits are sought for more. */
const CLASS_WEIGHTS = [1.5, 2, 1, 1, 1, 1, 1] as const;
/** Flux over its mean from which an attack is shown at the default sensitivity. */
const SHOWN = 3;

const path = (set: string, part: number): string => `${FOLDER}/${set}-${part}-${values.recordings}`;

function read(set: string, parts: number): Examples {
  const all = Array.from({ length: parts }, (_, part) =>
    ['features', 'allowed', 'strength'].map((name) => readFileSync(`${path(set, part)}.${name}`)),
  );
  const joined = (k: number): Buffer => Buffer.concat(all.map((files) => files[k]!));
  const allowed = new Uint8Array(joined(1));
  const strength = joined(2);
  return {
    count: allowed.length,
    features: new Int8Array(joined(0)),
    allowed,
    strength: new Float32Array(strength.buffer.slice(strength.byteOffset, strength.byteOffset + strength.length)),
  };
}

/** Shares of examples that are trained on. */
const KEPT_OTHER = 0.4;
const KEPT_SEVERAL = 0.5;
const OTHER = 1 << SOUND_CLASSES.indexOf('other');
const chance = new Chance(11);

/** How often each class is right, as the network was made to see it. */
function frequenciesOf(set: Examples): number[] {
  const counts = SOUND_CLASSES.map(
    (_, k) =>
      CLASS_WEIGHTS[k]! *
      set.allowed.reduce((sum, allowed, i) => sum + Number(allowed === 1 << k && set.strength[i]! >= SHOWN / 2), 0),
  );
  const all = counts.reduce((a, b) => a + b, 0);
  return counts.map((count) => count / all);
}

/** Processes that make a set, each with beginnings of chance of its own; two run at once, for two cores. */
const PARTS = { training: 4, validation: 2 } as const;

async function make(set: keyof typeof PARTS): Promise<Examples> {
  const waiting = Array.from({ length: PARTS[set] }, (_, part) => part).filter(
    (part) => !existsSync(`${path(set, part)}.strength`),
  );
  const work = async (): Promise<void> => {
    for (let part = waiting.shift(); part !== undefined; part = waiting.shift()) {
      const child = spawn(
        process.execPath,
        [
          ...process.execArgv,
          process.argv[1]!,
          '--set',
          set,
          '--part',
          String(part),
          '--recordings',
          values.recordings,
        ],
        { stdio: 'inherit' },
      );
      const [code] = (await once(child, 'exit')) as [number | null];
      if (code !== 0) throw new Error(`part ${part} failed`);
    }
  };
  await Promise.all([work(), work()]);
  return read(set, PARTS[set]);
}

function answersOf(model: PackedModel, set: Examples): Float64Array[] {
  const row = new Float32Array(FEATURES);
  const answer = network(model);
  return Array.from({ length: set.count }, (_, i) => {
    for (let f = 0; f < FEATURES; f++) row[f] = set.features[i * FEATURES + f]! / FEATURE_SCALE;
    return probabilities(answer(row), model.temperature);
  });
}

const allowedShare = (p: Float64Array, allowed: number): number =>
  p.reduce((sum, value, k) => sum + ((allowed >> k) & 1 ? value : 0), 0);

/** Mean loss when the logarithms are divided by a temperature. */
function lossAt(answers: readonly Float64Array[], set: Examples, temperature: number): number {
  let sum = 0;
  answers.forEach((p, i) => {
    const cooled = p.map((value) => (value + 1e-12) ** (1 / temperature));
    sum -= Math.log(1e-9 + allowedShare(cooled, set.allowed[i]!) / cooled.reduce((a, b) => a + b, 0));
  });
  return sum / set.count;
}

function subset(set: Examples, keep: (i: number) => boolean): Examples {
  const at = Array.from({ length: set.count }, (_, i) => i).filter(keep);
  const features = new Int8Array(at.length * FEATURES);
  at.forEach((i, n) => features.set(set.features.subarray(i * FEATURES, (i + 1) * FEATURES), n * FEATURES));
  return {
    count: at.length,
    features,
    allowed: Uint8Array.from(at, (i) => set.allowed[i]!),
    strength: Float32Array.from(at, (i) => set.strength[i]!),
  };
}

/** Whether only one class is right. */
const single = (allowed: number): boolean => (allowed & (allowed - 1)) === 0;

/** Right answers and honesty, on examples that allow some classes only. */
export function judged(model: PackedModel, set: Examples): string {
  const answers = answersOf(model, set).map((p, i) => {
    const best = p.indexOf(Math.max(...p));
    return { p: p[best]!, best, right: ((set.allowed[i]! >> best) & 1) === 1, allowed: set.allowed[i]! };
  });
  const bins = Array.from({ length: 10 }, (_, b) => answers.filter(({ p }) => Math.min(9, Math.floor(p * 10)) === b));
  const mean = (list: readonly number[]): number => list.reduce((s, v) => s + v, 0) / Math.max(1, list.length);
  const ece = bins.reduce(
    (sum, bin) =>
      sum + (bin.length / answers.length) * Math.abs(mean(bin.map((a) => a.p)) - mean(bin.map((a) => Number(a.right)))),
    0,
  );
  const lines = [
    `${set.count} examples, ${(mean(answers.map((a) => Number(a.right))) * 100).toFixed(1)} % right, expected calibration error ${ece.toFixed(3)}`,
    '',
    '| said | examples | mean probability | right |',
    '|---|---|---|---|',
  ];
  bins.forEach(
    (bin, b) =>
      bin.length &&
      lines.push(
        `| ${(b / 10).toFixed(1)}-${((b + 1) / 10).toFixed(1)} | ${bin.length} | ${mean(bin.map((a) => a.p)).toFixed(2)} | ${mean(bin.map((a) => Number(a.right))).toFixed(2)} |`,
      ),
  );
  lines.push('', '| class | examples | found | of those called so, right |', '|---|---|---|---|');
  SOUND_CLASSES.forEach((name, k) => {
    const own = answers.filter((a) => a.allowed === 1 << k);
    const called = answers.filter((a) => a.best === k);
    lines.push(
      `| ${name} | ${own.length} | ${mean(own.map((a) => Number(a.best === k))).toFixed(2)} | ${mean(called.map((a) => Number(a.right))).toFixed(2)} |`,
    );
  });
  return lines.join('\n');
}

if (values.part !== undefined) {
  const count = Number(values.recordings) / (values.set === 'validation' ? 24 : PARTS.training);
  mkdirSync(FOLDER, { recursive: true });
  const made = examples(
    load(values.set === 'validation' ? VALIDATION : TRAINING),
    count,
    (values.set === 'validation' ? 50 : 1) + Number(values.part),
    (share) => console.log(`${values.set} ${values.part}: ${(share * 100).toFixed(0)} %`),
  );
  const file = path(values.set!, Number(values.part));
  writeFileSync(`${file}.features`, made.features);
  writeFileSync(`${file}.allowed`, made.allowed);
  writeFileSync(`${file}.strength`, Buffer.from(made.strength.buffer));
} else {
  await prepare({ ...TRAINING, ...VALIDATION });
  const made = await make('training');
  // What is no hit, and what may be several things, outnumbers the rest.
  const training = subset(
    made,
    (i) => chance.next() < (made.allowed[i] === OTHER ? KEPT_OTHER : single(made.allowed[i]!) ? 1 : KEPT_SEVERAL),
  );
  const validation = await make('validation');
  console.log(`${training.count} examples to train on, ${validation.count} from other packages`);
  // Of the packages kept apart, every second example says when to stop and sets the temperature; the others are reported.
  const shown = subset(validation, (i) => validation.strength[i]! >= SHOWN && single(validation.allowed[i]!));
  const fit = subset(shown, (i) => i % 2 === 0);
  const write = (name: string, data: ArrayBufferView): void =>
    writeFileSync(`${FOLDER}/${name}`, Buffer.from(data.buffer, data.byteOffset, data.byteLength));
  write('train.features', training.features);
  write('train.allowed', training.allowed);
  write(
    'train.weights',
    Float32Array.from(training.allowed, (allowed) => (single(allowed) ? CLASS_WEIGHTS[31 - Math.clz32(allowed)]! : 1)),
  );
  write('fit.features', fit.features);
  write('fit.allowed', fit.allowed);
  writeFileSync(
    `${FOLDER}/layout.json`,
    JSON.stringify({
      classes: SOUND_CLASSES.length,
      features: FEATURES,
      scale: FEATURE_SCALE,
      bands: BARK_BANDS,
      bed: BED_AT,
      attackSpectra: ATTACK_SPECTRA_AT,
      spectrumRows: ATTACK_SPECTRUM_BYTES / ATTACK_SPECTRUM_BANDS,
      glimpseBands: ATTACK_SPECTRUM_BANDS,
    }),
  );
  const python = 'build/training/venv/bin/python';
  if (!existsSync(python)) {
    execFileSync('python3', ['-m', 'venv', 'build/training/venv'], { stdio: 'inherit' });
    execFileSync(python, ['-m', 'pip', 'install', '-q', '-r', 'scripts/train/requirements.txt'], { stdio: 'inherit' });
  }
  execFileSync(
    python,
    ['scripts/train/network.py', FOLDER, values.epochs, ...(values.from === undefined ? [] : [values.from])],
    { stdio: 'inherit' },
  );
  const trained = {
    frequencies: frequenciesOf(training).map((f) => Number(f.toFixed(4))),
    temperature: 1,
    ...(JSON.parse(readFileSync(`${FOLDER}/network.json`, 'utf8')) as PackedNetwork),
  };
  const answers = answersOf(trained, fit);
  const temperatures = Array.from({ length: 60 }, (_, i) => 0.6 + i * 0.04);
  const temperature = temperatures.reduce((a, b) => (lossAt(answers, fit, b) < lossAt(answers, fit, a) ? b : a));
  const model = { ...trained, temperature: Number(temperature.toFixed(2)) };
  writeFileSync('src/core/kinds/weights.json', `${JSON.stringify(model)}\n`);
  writeFileSync('src/core/kinds/reference.json', readFileSync(`${FOLDER}/reference.json`));
  console.log(
    `temperature ${temperature.toFixed(2)}\n\nPackages trained on:\n${judged(
      model,
      subset(training, (i) => i % 10 === 0 && training.strength[i]! >= SHOWN && single(training.allowed[i]!)),
    )}`,
  );
  console.log(
    `\nPackages kept apart:\n${judged(
      model,
      subset(shown, (i) => i % 2 === 1),
    )}`,
  );
}
