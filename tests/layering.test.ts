import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { expect, it } from 'vitest';

const CONFIG = join(process.cwd(), '.dependency-cruiser.cjs');
const DEPCRUISE = join(process.cwd(), 'node_modules/dependency-cruiser/bin/dependency-cruise.mjs');

const FORBIDDEN = [
  ['core-is-pure', 'core', 'app'],
  ['core-is-pure', 'core', 'effects'],
  ['effects-see-core', 'effects', 'engine'],
  ['engine-below-app', 'engine', 'app'],
  ['app-on-engine', 'app', 'server'],
  ['engine-by-its-index', 'app', 'engine'],
  ['server-stands-alone', 'server', 'core'],
  ['cli-on-server', 'cli', 'app'],
] as const;
const STAGES = [
  ['base', 'document', 'base-first'],
  ['document', 'finding', 'document-on-base'],
  ['finding', 'timeline', 'finding-on-document'],
  ['motion', 'document', 'motion-on-base'],
  ['timeline', 'finding', 'timeline-on-document'],
  ['formats', 'timeline', 'formats-on-document'],
  ['sound', 'finding', 'sound-on-accents'],
  ['accents', 'finding', 'accents-on-timeline'],
  ['subject', 'timeline', 'subject-on-accents'],
] as const;
const ALLOWED = [
  ['effects', 'core'],
  ['engine', 'core'],
  ['engine', 'effects'],
  ['app', 'core'],
  ['cli', 'server'],
] as const;

it('the check of layers finds each import that goes up, what is no part of the core, and circles; and nothing else', () => {
  const folder = mkdtempSync(join(tmpdir(), 'layers-'));
  const write = (path: string, text: string): void => {
    mkdirSync(dirname(join(folder, 'src', path)), { recursive: true });
    writeFileSync(join(folder, 'src', path), text);
  };
  const takes = (from: string, to: string): void =>
    write(`${from}/takes-${to}.ts`, `export { ${to} } from '../${to}/own.ts';\n`);
  for (const layer of ['core', 'effects', 'engine', 'app', 'server', 'cli'])
    write(`${layer}/own.ts`, `export const ${layer} = 1;\n`);
  for (const [, from, to] of FORBIDDEN) takes(from, to);
  for (const [from, to] of ALLOWED) takes(from, to);
  write('engine/index.ts', "export { engine } from './own.ts';\n");
  write('app/asks-engine.ts', "export { engine } from '../engine/index.ts';\n");
  // The stages of the core: each knows only those before it.
  for (const stage of ['base', 'document', 'finding', 'motion', 'formats', 'timeline', 'sound', 'accents'])
    write(`core/${stage}/own.ts`, `export const ${stage} = 1;\n`);
  for (const [stage, later] of STAGES)
    write(`core/${stage}/takes-${later}.ts`, `export { ${later} } from '../${later}/own.ts';\n`);
  write('core/accents/takes-base.ts', "export { base } from '../base/own.ts';\n");
  write('core/takes-react.ts', "export { useState } from 'react';\n");
  write('app/round.ts', "import { trip } from './trip.ts';\nexport const round = (): unknown => trip;\n");
  write('app/trip.ts', "import { round } from './round.ts';\nexport const trip = (): unknown => round;\n");
  const { stdout } = spawnSync(process.execPath, [DEPCRUISE, '--config', CONFIG, '--output-type', 'json', 'src'], {
    cwd: folder,
    encoding: 'utf8',
  });
  rmSync(folder, { recursive: true });
  const { violations } = (JSON.parse(stdout) as { summary: { violations: { from: string; rule: { name: string } }[] } })
    .summary;
  expect(violations.map(({ from, rule }) => `${rule.name}: ${from}`).sort()).toEqual(
    [
      ...FORBIDDEN.map(([rule, from, to]) => `${rule}: src/${from}/takes-${to}.ts`),
      ...STAGES.map(([stage, later, rule]) => `${rule}: src/core/${stage}/takes-${later}.ts`),
      'core-is-pure: src/core/takes-react.ts',
      'no-circles: src/app/round.ts',
    ].sort(),
  );
}, 30_000);
