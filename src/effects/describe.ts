/** The catalogue as text, from the declarations: docs/effects.md is this, `npm run docs:effects` writes it. */
import type { Accent } from '../core/document/types.ts';
import type { EffectGroup, EffectSpec, ParamSpec } from '../core/accents/effect-spec.ts';
import { lower, costOf } from './compose.ts';
import { EFFECT_LIST } from './index.ts';
import { STARTER_ACCENTS } from './starters.ts';

const GROUPS: Record<EffectGroup, string> = { move: 'Move', colour: 'Colour', light: 'Blur and light', time: 'Time' };
const ALIGNS = { start: 'start', peak: 'peak', end: 'end' } as const;

const unit = (p: ParamSpec): string => (p.choices ? p.choices.join(' / ') : p.unit === 'ratio' ? '' : p.unit);
const marks = (p: ParamSpec): string =>
  [
    p.identity !== undefined && `nothing at ${p.identity}`,
    p.identity !== undefined && p.scales !== false && 'follows intensity',
    p.mirrors && 'mirrors',
  ]
    .filter(Boolean)
    .join(', ');

/** Draws and reads of the picture for each pixel at 1920x1080, at the shelf values. */
function cost(spec: EffectSpec): string {
  if (spec.retime) return 'shows another frame: no draw';
  if (spec.shutter) return 'draws what lies above it in the list at up to 64 moments';
  const values = {
    ...Object.fromEntries(Object.entries(spec.params).map(([name, p]) => [name, p.default])),
    ...spec.thumbnail,
  };
  const context = { seed: 1, age: 0, lead: 2, tail: 8, fps: 30, summed: () => 0.1 };
  const uniforms = spec.resolve(values, context);
  if (!uniforms) return '';
  const copies = spec.copies?.(values, context).map((copy, i) => ({ shift: copy.shift, picture: i, passes: [] }));
  const { draws, reads } = costOf(
    lower([{ effect: spec.id, uniforms, ...(copies && { copies }) }], { width: 1920, height: 1080 }),
  );
  return `${draws} ${draws === 1 ? 'draw' : 'draws'}, ${reads} ${reads === 1 ? 'read' : 'reads'} a pixel${draws === 1 ? ', joined with its neighbours where they allow it' : ''}`;
}

const section = (spec: EffectSpec): string => `### ${spec.name}

![${spec.name}](effects/${spec.id}.jpg)

${spec.doc} (${cost(spec)})

| parameter | unit | from | to | usual | | what it is |
|---|---|---|---|---|---|---|
${Object.values(spec.params)
  .map((p) => `| ${p.label} | ${unit(p)} | ${p.min} | ${p.max} | ${p.default} | ${marks(p)} | ${p.doc} |`)
  .join('\n')}
`;

function accentRow({ name, align, lead, tail, effects, ramp }: Accent): string {
  const used = effects.map((use) => EFFECT_LIST.find(({ id }) => id === use.effect)!.name);
  const speeds = ramp?.steps.map(({ speed, frames }) => `${Math.round(speed * 100)} % for ${frames}`);
  return `| ${name} | ${ALIGNS[align]} | ${lead}, ${tail} | ${used.join(', ')} | ${speeds?.join(', ') ?? 'as recorded'} |`;
}

export const describeEffects = (): string => `# Effects

Made by \`npm run docs:effects\` from the declarations in \`src/effects\`; do not edit. Pictures are shelf values on a frame of the demo, drawn by the CPU reference. "%" without more is of the frame height; angles run clockwise from the right; reads and draws are at 1920x1080 and shelf values.

Any parameter can be steady, shaped over frames, or moved by a generator; any effect can be limited to a region, repeated, and laid on hits, joins or stretches. See [adding an effect](adding-an-effect.md).

${(Object.keys(GROUPS) as EffectGroup[])
  .map(
    (group) =>
      `## ${GROUPS[group]}\n\n${EFFECT_LIST.filter((e) => e.group === group)
        .map(section)
        .join('\n')}`,
  )
  .join('\n')}
## Accents that come with Akmeon

| accent | on the hit lies its | frames before and after | effects | speed |
|---|---|---|---|---|
${STARTER_ACCENTS.map(accentRow).join('\n')}
`;
