/** Speed, as ratios against a reference in the same run. */
import { at, startParts } from '../browser/harness.ts';

const bench = await startParts('tests/bench/parts.ts');
const clip = bench.file(at('demo/lantern-drift.mp4'));
const rows: [what: string, figure: string, reference: string][] = [];
const run = <T>(what: string, work: Promise<T>): Promise<T> => {
  process.stderr.write(`${what}…\n`);
  return work;
};

const sound = await run('sound', bench.page.evaluate((url) => window.bench.sound(url, 30), clip));
rows.push(['sound analysis', `${(sound.seconds / sound.ms * 1000).toFixed(0)} x real time`, `${sound.seconds} s of 48 kHz sound`]);
const picture = await run('picture', bench.page.evaluate((url) => window.bench.picture(url), clip));
rows.push(['picture analysis', `${(picture.seconds / picture.analyse * 1000).toFixed(1)} x real time`, '960x540 at 30 frames a second']);
rows.push(['picture analysis against decoding alone', `${(picture.analyse / picture.decode).toFixed(2)} x its time`, `decoding: ${(picture.frames / picture.decode * 1000).toFixed(0)} frames a second`]);
const plain = await run('export, untouched', bench.page.evaluate((url) => window.bench.exportPlain(url), clip));
rows.push(['export of untouched frames against decoding and encoding alone', `${(plain.plain / plain.ours).toFixed(2)} of its frame rate`, `${(plain.frames / plain.plain * 1000).toFixed(0)} frames a second`]);
const preview = await run('preview', bench.page.evaluate((url) => window.bench.preview(url), clip));
for (const { height, width, fps } of preview) rows.push([`preview with five effects at ${width}x${height}`, `${fps.toFixed(1)} frames a second`, `${(fps / 30).toFixed(2)} of 30`]);
await bench.close();

console.log('| what | figure | against |\n|---|---|---|');
for (const row of rows) console.log(`| ${row.join(' | ')} |`);
