import Papa from 'papaparse';
import { expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { decideAll } from '../document/edits.ts';
import { hit, punchAccent, shotRule, twoClips } from '../testkit/montages.ts';
import { mediaIndex } from '../timeline/timeline.ts';
import { planner } from './plan.ts';
import { envelopeCsv, envelopeTable, placementsTable } from './tables.ts';

const montage = decideAll(
  [hit('h', 'one', 1.5), hit('i', 'one', 1.8, { strength: 0.4 })],
  'kept',
)({ ...twoClips(), accents: [{ ...punchAccent(), name: '=1+1 "x"' }], rules: [shotRule()] });
const plans = planner(montage, mediaIndex(montage.sources), EFFECTS);

it('lists placements by frame, a line each, in a table that no spreadsheet runs', () => {
  const { data } = Papa.parse<Record<string, string>>(placementsTable(plans), { header: true, skipEmptyLines: true });
  expect(data.map(({ frame, hit: kind, laid }) => [frame, kind, laid])).toEqual(
    plans.placements.map((p) => [String(p.frame), 'shot', 'by rule']),
  );
  expect(data[0]!['accent']).toBe('\'=1+1 "x"');
});

it('lists what an accent does on each of its frames as the plan draws it', () => {
  const table = envelopeTable(montage.accents[0]!, plans, EFFECTS);
  const zoom = table.columns.findIndex((name) => name.endsWith('punch zoom'));
  const at = plans.placements[0]!.frame;
  for (const { frame, values } of table.frames) {
    const [pass] = plans.at(at + frame).passes;
    // The plan leaves out what does nothing; a zoom is drawn as one over its size.
    const [drawn] = pass ? (pass.uniforms['turn'] as number[]) : [1];
    expect(100 / values[zoom]!).toBeCloseTo(drawn!, 4);
  }
  const lines = envelopeCsv(table).trim().split('\n');
  expect(lines).toHaveLength(table.frames.length + 1);
  expect(lines[0]!.startsWith('frame,')).toBe(true);
});
