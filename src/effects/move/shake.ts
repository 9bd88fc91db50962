import type { EffectContext, EffectSpec, Uniforms } from '../../core/accents/effect-spec.ts';
import { hash, signed, valueNoise } from '../../core/base/hash.ts';
import { moved, straightReads, turnOf, type Read, vec } from '../helpers.ts';

const MODES = ['noise', 'sine', 'stepped'] as const;

/** One axis of the movement in -1..1 at the context's age. */
function wobble(mode: number, rate: string, step: number, axis: number, context: EffectContext): number {
  const { seed, summed } = context;
  // Time runs from the accent's first frame, so that no phase depends on negative modulo.
  if (mode === 2) return signed(hash(seed, axis, turnOf(context, step)));
  const cycles = summed(rate);
  if (mode === 1) return Math.sin(2 * Math.PI * (cycles + (hash(seed, axis) >>> 8) / 16777216));
  return valueNoise(cycles * 2, seed, axis);
}

const amplitude = (label: string, doc: string) =>
  ({ label, unit: '%', min: 0, max: 50, default: 0, identity: 0, doc }) as const;
const rate = (label: string) => ({ label, unit: 'Hz', min: 0, max: 60, default: 12, doc: 'Swings a second.' }) as const;

const readOf = (u: Uniforms): Read => {
  const [ox, oy] = vec(u, 'offset');
  const [c, s] = vec(u, 'turn');
  return (x, y, q) => {
    q[0] = c! * (x - ox!) + s! * (y - oy!);
    q[1] = c! * (y - oy!) - s! * (x - ox!);
  };
};

export const shake: EffectSpec = {
  id: 'shake',
  also: 'handheld camera wobble tremble quake',
  version: 1,
  name: 'Shake',
  group: 'move',
  stage: 'move',
  taps: 1,
  doc: 'Moves the picture sideways, up and down, in depth and in roll, each with its own amount and rate. The last frame stands still.',
  params: {
    x: amplitude('Sideways', 'Largest sideways offset in % of the frame height.'),
    y: amplitude('Up and down', 'Largest vertical offset in % of the frame height.'),
    depth: amplitude('Depth', 'Largest change of size in %.'),
    roll: { label: 'Roll', unit: '°', min: 0, max: 45, default: 0, identity: 0, doc: 'Largest turn.' },
    rateX: rate('Rate sideways'),
    rateY: rate('Rate up and down'),
    rateDepth: rate('Rate of depth'),
    rateRoll: rate('Rate of roll'),
    step: { label: 'Step', unit: 'frames', min: 1, max: 30, default: 2, doc: 'How long a stepped offset stays.' },
    mode: {
      label: 'Movement',
      unit: 'choice',
      min: 0,
      max: 2,
      default: 0,
      choices: MODES,
      doc: 'Smooth noise, a sine, or steps.',
    },
  },
  uniforms: { offset: 2, turn: 2 },
  thumbnail: { x: 6, y: 6, roll: 2 },
  resolve(p, context) {
    if (context.age >= context.tail || (p['x'] === 0 && p['y'] === 0 && p['depth'] === 0 && p['roll'] === 0))
      return null;
    const mode = Math.round(p['mode']!);
    const at = (amount: string, hz: string, axis: number): number =>
      p[amount]! * wobble(mode, hz, p['step']!, axis, context);
    const scale = 1 / (1 + at('depth', 'rateDepth', 2) / 100);
    const angle = (at('roll', 'rateRoll', 3) * Math.PI) / 180;
    return {
      offset: [at('x', 'rateX', 0) / 100, at('y', 'rateY', 1) / 100],
      turn: [Math.cos(angle) * scale, Math.sin(angle) * scale],
    };
  },
  glsl: `
vec2 EFFECT(Shake u, vec2 p) {
  vec2 d = p - u.offset;
  return vec2(u.turn.x * d.x + u.turn.y * d.y, u.turn.x * d.y - u.turn.y * d.x);
}`,
  reference: (u, source) => moved(readOf(u), source),
  reads: (u, box) => straightReads(readOf(u), box),
};
