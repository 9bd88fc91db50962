import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { EffectContext, EffectSpec, Image } from '../core/accents/effect-spec.ts';
import { planner } from '../core/plan/plan.ts';
import { mediaIndex } from '../core/plan/timeline.ts';
import { readMontage, writeMontage } from '../core/formats/akmeon.ts';
import { evaluate } from '../core/envelopes/envelope.ts';
import { twoClips } from '../core/testkit/montages.ts';
import { composeGlsl, composeReference, drawGroups, pictureImage } from './compose.ts';
import { EFFECTS, EFFECT_LIST } from './index.ts';
import { STARTER_ACCENTS } from './starters.ts';

const context: EffectContext = { seed: 12345, age: 1, lead: 2, tail: 8, fps: 30 };
const W = 48;
const H = 27;
/** A bright card without any black, so that a border would show. */
const card = new Float64Array(W * H * 4).map((_, i) => (i % 4 === 3 ? 1 : 0.3 + 0.5 * (((i >> 2) % 7) / 7)));
const source = pictureImage(card, W, H);

function draw(image: Image): Float64Array {
  const out = new Float64Array(W * H * 4);
  const pixel = new Float64Array(4);
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) {
    image((x + 0.5 - W / 2) / H, (y + 0.5 - H / 2) / H, pixel);
    out.set(pixel, (y * W + x) * 4);
  }
  return out;
}

const defaults = (spec: EffectSpec): Record<string, number> => Object.fromEntries(Object.entries(spec.params).map(([name, p]) => [name, p.default]));
/** Any values within the declared limits. */
const anyParams = (spec: EffectSpec) => fc.record(Object.fromEntries(Object.entries(spec.params).map(([name, p]) =>
  [name, p.choices ? fc.integer({ min: p.min, max: p.max }) : fc.double({ min: p.min, max: p.max, noNaN: true })])));

describe.each(EFFECT_LIST.map((spec) => [spec.name, spec] as const))('%s keeps the contract of effects', (_, spec) => {
  it('declares limits that hold its default, its identity and its shelf values, and a doc for each', () => {
    for (const [name, p] of Object.entries(spec.params)) {
      for (const value of [p.default, p.identity ?? p.default, spec.thumbnail[name] ?? p.default]) {
        expect(value, name).toBeGreaterThanOrEqual(p.min);
        expect(value, name).toBeLessThanOrEqual(p.max);
      }
      expect(p.doc.length, name).toBeGreaterThan(10);
    }
    expect(spec.glsl).toContain('EFFECT(');
    expect(Object.keys(spec.thumbnail).every((name) => name in spec.params)).toBe(true);
  });

  it('is the identity at its defaults and wherever all parameters with an identity stand at it', () => {
    expect(spec.resolve(defaults(spec), context)).toBeNull();
    fc.assert(fc.property(anyParams(spec), (params) => {
      const still = Object.fromEntries(Object.entries(params).map(([name, value]) => [name, spec.params[name]!.identity ?? value]));
      expect(spec.resolve(still, context)).toBeNull();
    }), { numRuns: 30 });
  });

  it('does something with its shelf values', () => {
    const uniforms = spec.resolve({ ...defaults(spec), ...spec.thumbnail }, context);
    expect(uniforms).not.toBeNull();
    expect(draw(spec.reference(uniforms!, source))).not.toEqual(draw(source));
  });

  it('gives the same for the same input, whatever was asked before, and fills every declared uniform with finite numbers', () => {
    fc.assert(fc.property(anyParams(spec), fc.nat(), fc.integer({ min: -2, max: 8 }), (params, seed, age) => {
      const at = { ...context, seed, age };
      const first = spec.resolve(params, at);
      spec.resolve(params, { ...at, age: age + 1 });
      expect(spec.resolve(params, at)).toEqual(first);
      if (!first) return;
      for (const [name, size] of Object.entries(spec.uniforms)) {
        const value = first[name];
        const list = typeof value === 'number' ? [value] : (value ?? []);
        expect(list.length, name).toBe(size);
        expect(list.every(Number.isFinite), name).toBe(true);
      }
    }), { numRuns: 60 });
  });

  it('never shows a border: at any parameters and seed no pixel is darker than the card, unless it darkens by itself', () => {
    fc.assert(fc.property(anyParams(spec), fc.nat(), (params, seed) => {
      const uniforms = spec.resolve(params, { ...context, seed });
      if (!uniforms || spec.stage === 'colour') return;
      const drawn = draw(spec.reference(uniforms, source));
      expect(Math.min(...drawn)).toBeGreaterThan(0.29);
    }), { numRuns: 25 });
  });
});

describe('composition', () => {
  it('draws a stack of five effects at once, and cuts what would read too often', () => {
    const pass = (effect: string) => ({ effect, uniforms: {} });
    expect(drawGroups(['punch', 'shake', 'flash', 'split', 'blocks'].map(pass))).toHaveLength(1);
    expect(drawGroups(['split', 'split', 'split', 'split'].map(pass)).map((g) => g.length)).toEqual([3, 1]);
    expect(drawGroups([])).toEqual([]);
  });

  it('writes each effect once per use, with its own names', () => {
    const glsl = composeGlsl(['punch', 'punch', 'flash']);
    expect(glsl.match(/struct Punch/g)).toHaveLength(1);
    expect(glsl).toContain('image1(vec2 p) { return image0(effect1(u1, p)); }');
  });

  it('applies moves to what lies below: a punch over a flash equals a flash over a punch', () => {
    const punch = { effect: 'punch', uniforms: EFFECTS.get('punch')!.resolve({ ...defaults(EFFECTS.get('punch')!), zoom: 150 }, context)! };
    const flash = { effect: 'flash', uniforms: EFFECTS.get('flash')!.resolve({ ...defaults(EFFECTS.get('flash')!), exposure: 1 }, context)! };
    const [a, b] = [draw(composeReference([punch, flash], source)), draw(composeReference([flash, punch], source))];
    a.forEach((value, i) => expect(value).toBeCloseTo(b[i]!, 12));
  });

  it('mirrors without end at the edges', () => {
    const pixel = new Float64Array(4);
    const inside = new Float64Array(4);
    source((W + 9.5 - W / 2) / H, 0.5 / H, pixel);
    source((W - 9.5 - W / 2) / H, 0.5 / H, inside);
    expect([...pixel].map((v) => v.toFixed(9))).toEqual([...inside].map((v) => v.toFixed(9)));
  });
});

describe('shake', () => {
  it('stands exactly still on its last frame', () => {
    const spec = EFFECTS.get('shake')!;
    expect(spec.resolve({ ...defaults(spec), x: 20, y: 20 }, { ...context, age: 8 })).toBeNull();
    expect(spec.resolve({ ...defaults(spec), x: 20, y: 20 }, { ...context, age: 7 })).not.toBeNull();
  });
});

describe('starter accents', () => {
  it('are valid, end in the identity and use known effects at their version', () => {
    const m = readMontage(writeMontage({ ...twoClips(), accents: STARTER_ACCENTS }));
    expect(m.accents).toHaveLength(3);
    for (const accent of STARTER_ACCENTS) {
      for (const use of accent.effects) {
        const spec = EFFECTS.get(use.effect)!;
        expect(use.version).toBe(spec.version);
        for (const [name, envelope] of Object.entries(use.params)) {
          const identity = spec.params[name]!.identity;
          if (identity !== undefined) expect(evaluate(envelope, accent.tail), `${accent.name} ${name}`).toBe(identity);
        }
      }
    }
  });
});

describe('plan speed', () => {
  it('answers for any frame of 1,000 placements in well under a millisecond', () => {
    const base = twoClips();
    const hits = Array.from({ length: 1000 }, (_, i) => ({ id: `h${i}`, source: 'one', t: i * 0.5, kind: 'shot' as const, strength: 1, confidence: 1, evidence: [], state: 'kept' as const }));
    const sources = [{ ...base.sources[0]!, duration: 600, video: { ...base.sources[0]!.video!, count: 18000 } }];
    const m = { ...base, sources, hits, clips: [{ id: 'c', source: 'one', in: 0, out: 600, fit: 'fit' as const }], accents: [STARTER_ACCENTS[1]!], rules: [{ id: 'r', accent: 'lantern-burst', on: true, kinds: ['shot' as const], minStrength: 0, follow: 0, burst: 'each' as const, seed: 1 }] };
    const p = planner(m, mediaIndex(m.sources), EFFECTS);
    expect(p.placements).toHaveLength(1000);
    const began = performance.now();
    for (let frame = 0; frame < 15000; frame += 3) p.at(frame);
    expect((performance.now() - began) / 5000).toBeLessThan(0.5);
  });
});
