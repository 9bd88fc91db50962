/** `npm run bench:detect -- DIR [--out FILE.json] [--write]`: the table of what the detectors reach on a folder of cases. */
import { existsSync, writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { figures } from '../../scripts/figures.ts';
import { casesIn, measure, reached, type Row } from './cases.ts';

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { out: { type: 'string', default: 'build/detect.json' }, write: { type: 'boolean', default: false } },
});
const from = process.env['INIT_CWD'] ?? process.cwd();
const folder = positionals[0] ? resolve(from, positionals[0]) : null;
if (!folder || !existsSync(folder)) {
  console.error(
    `bench:detect needs a folder of cases: sound or film files, each with a JSON of truth beside it${folder ? ` (${positionals[0]} is not there)` : ''}`,
  );
  process.exit(2);
}
const cases = casesIn(folder);
if (!cases.length) {
  console.error(`${positionals[0]} holds no cases`);
  process.exit(2);
}
const rows: Row[] = [];
const lines = ['| what | case | value | wanted | |', '|---|---|---|---|---|'];
for (const { file, truth } of cases) {
  for (const row of await measure(folder, file, truth)) {
    rows.push(row);
    const wanted = !row.most && row.floor === 0 ? 'told' : `${row.most ? 'at most' : 'at least'} ${row.floor}`;
    lines.push(
      `| ${row.what} | ${row.case} | ${row.value.toFixed(3)}${reached(row) ? '' : ' **missed**'} | ${wanted} | ${row.detail} |`,
    );
  }
}
figures('practice', lines, values.write);
const out = resolve(from, values.out);
writeFileSync(
  out,
  `${JSON.stringify(
    rows.map((row) => ({ ...row, reached: reached(row) })),
    null,
    1,
  )}\n`,
);
console.log(`\n${rows.filter(reached).length} of ${rows.length} reached; written to ${values.out}`);
