import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { share, turnOf, vec } from '../helpers.ts';

export const dropout: EffectSpec = {
  id: 'dropout',
  also: 'old tape vhs noise lines glitch',
  version: 1,
  name: 'Dropout',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'Switches channels off, steadily or one after the other.',
  params: {
    amount: share('Amount', 'How far a channel that drops is taken out.'),
    drops: {
      label: 'Channels',
      unit: 'choice',
      min: 0,
      max: 6,
      default: 0,
      choices: ['red', 'green', 'blue', 'all but red', 'all but green', 'all but blue', 'each in turn'],
      doc: 'Which channels drop.',
    },
    every: {
      label: 'Every',
      unit: 'frames',
      min: 1,
      max: 60,
      default: 1,
      doc: 'Frames a channel is out when they take turns.',
    },
  },
  uniforms: { keep: 3 },
  thumbnail: { amount: 100 },
  resolve(p, context) {
    if (p['amount'] === 0) return null;
    const drops = Math.round(p['drops']!);
    const turn = turnOf(context, p['every']!);
    const out = drops === 6 ? ((turn % 3) + 3) % 3 : drops % 3;
    const inverted = drops > 2 && drops < 6;
    return { keep: [0, 1, 2].map((c) => ((c === out) !== inverted ? 1 - p['amount']! / 100 : 1)) };
  },
  glsl: `
vec4 EFFECT(Dropout u, vec4 c, vec2 p) { return vec4(c.rgb * u.keep, c.a); }`,
  reference(u, source) {
    const keep = vec(u, 'keep');
    return (x, y, out) => {
      source(x, y, out);
      for (let c = 0; c < 3; c++) out[c] = out[c]! * keep[c]!;
    };
  },
};
