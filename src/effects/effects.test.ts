import { isMoved } from '../core/document/params.ts';
import { existsSync, readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { EffectContext, EffectSpec, Uniforms } from '../core/accents/effect-spec.ts';
import { accentPasses, SINGLE_RUN, type Pass } from '../core/accents/passes.ts';
import { prepare } from '../core/accents/prepare.ts';
import { readAccents, writeAccents } from '../core/document/accents.ts';
import { evaluate } from '../core/accents/envelope.ts';
import { fromLinear, toLinear } from '../core/base/colour.ts';
import { DEFAULT_ACCENT } from '../core/document/types.ts';
import { enlargement, enlargementPass } from '../core/accents/cover.ts';
import { planner } from '../core/accents/plan.ts';
import { mediaIndex } from '../core/timeline/timeline.ts';
import { shotRule, twoClips } from '../core/testkit/montages.ts';
import {
  composeGlsl,
  costOf,
  displacement,
  drawGroups,
  drawReference,
  groupUniforms,
  lower,
  type Pixels,
} from './compose.ts';
import { hueMatrix } from './colour/hue.ts';
import { describeEffects } from './describe.ts';
import { EFFECTS, EFFECT_LIST, KERNELS } from './index.ts';
import { STARTER_ACCENTS } from './starters.ts';

const context: EffectContext = { seed: 12345, age: 1, lead: 2, tail: 8, fps: 30, summed: () => 0.1 };
const W = 48;
const H = 27;
/** A bright card without any black, so that a border would show. */
const card: Pixels = {
  width: W,
  height: H,
  data: new Float64Array(W * H * 4).map((_, i) => (i % 4 === 3 ? 1 : 0.3 + 0.5 * (((i >> 2) % 7) / 7))),
};
const even = (r: number, g = r, b = r, width = W, height = H): Pixels => ({
  width,
  height,
  data: Float64Array.from({ length: width * height * 4 }, (_, i) => [r, g, b, 1][i % 4]!),
});

const draw = (passes: readonly Pass[], source: Pixels = card) =>
  drawReference(
    lower(passes, source),
    source,
    passes.flatMap((p) => p.copies ?? []).map(() => source),
  ).data;
const defaults = (spec: EffectSpec): Record<string, number> =>
  Object.fromEntries(Object.entries(spec.params).map(([name, p]) => [name, p.default]));
/** Any values within the declared limits. */
const anyParams = (spec: EffectSpec) =>
  fc.record(
    Object.fromEntries(
      Object.entries(spec.params).map(([name, p]) => [
        name,
        p.choices ? fc.integer({ min: p.min, max: p.max }) : fc.double({ min: p.min, max: p.max, noNaN: true }),
      ]),
    ),
  );
/** One effect as its own pass, with copies of the same picture where it asks for them. */
function passOf(spec: EffectSpec, params: Readonly<Record<string, number>>, at: EffectContext = context): Pass | null {
  const values = { ...defaults(spec), ...params };
  const uniforms = spec.resolve(values, at);
  if (!uniforms) return null;
  const copies = spec.copies?.(values, at).map((copy, i) => ({ shift: copy.shift, picture: i, passes: [] }));
  return { effect: spec.id, uniforms, ...(copies && { copies }) };
}
const of = (id: string, params: Record<string, number>): Pass => passOf(EFFECTS.get(id)!, params)!;
const drawable = EFFECT_LIST.filter((spec) => !spec.retime && !spec.shutter);

describe.each(EFFECT_LIST.map((spec) => [spec.name, spec] as const))('%s keeps the contract of effects', (_, spec) => {
  it('declares limits that hold its default, its identity and its shelf values, and a doc for each', () => {
    for (const [name, p] of Object.entries(spec.params)) {
      for (const value of [p.default, p.identity ?? p.default, spec.thumbnail[name] ?? p.default]) {
        expect(value, name).toBeGreaterThanOrEqual(p.min);
        expect(value, name).toBeLessThanOrEqual(p.max);
      }
      expect(p.doc.length, name).toBeGreaterThan(10);
      if (p.choices) expect(p.max - p.min + 1, name).toBe(p.choices.length);
    }
    expect(Object.keys(spec.thumbnail).every((name) => name in spec.params)).toBe(true);
    if (spec.glsl) expect(spec.glsl).toContain('EFFECT(');
    // What has no kernel of its own is drawn by others, asks for other frames, or opens the shutter.
    else expect(Boolean(spec.expand ?? spec.retime ?? spec.shutter)).toBe(true);
  });

  it('is the identity at its defaults and wherever all parameters with an identity stand at it', () => {
    const still = { ...context, summed: (name: string) => (spec.params[name]?.identity === 0 ? 0 : 0.1) };
    expect(spec.resolve(defaults(spec), still)).toBeNull();
    fc.assert(
      fc.property(anyParams(spec), (params) => {
        const plain = Object.fromEntries(
          Object.entries(params).map(([name, value]) => [name, spec.params[name]!.identity ?? value]),
        );
        expect(spec.resolve(plain, still)).toBeNull();
      }),
      { numRuns: 30 },
    );
  });

  it('gives the same for the same input, whatever was asked before, and fills every declared uniform with finite numbers', () => {
    fc.assert(
      fc.property(anyParams(spec), fc.nat(), fc.integer({ min: -2, max: 8 }), (params, seed, age) => {
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
      }),
      { numRuns: 60 },
    );
  });
});

describe.each(drawable.filter((spec) => spec.id !== 'lut').map((spec) => [spec.name, spec] as const))(
  '%s as it is drawn',
  (_, spec) => {
    it('does something with its shelf values', () => {
      expect(draw([passOf(spec, spec.thumbnail)!])).not.toEqual(card.data);
    });

    // Colours and lights may darken by themselves; these may not.
    const keepsLight = spec.group === 'move' || spec.group === 'time';
    if (keepsLight)
      it('never shows a border, whatever its parameters and seed', () => {
        fc.assert(
          fc.property(anyParams(spec), fc.nat(), (params, seed) => {
            const pass = passOf(spec, params, { ...context, seed });
            if (!pass || params['blend'] === 4 || params['blend'] === 5 || params['blend'] === 6) return;
            expect(Math.min(...draw([pass]))).toBeGreaterThan(0.29);
          }),
          { numRuns: 12 },
        );
      });

    it('draws finite light at any limits', () => {
      fc.assert(
        fc.property(anyParams(spec), (params) => {
          const pass = passOf(spec, params);
          if (pass) expect(draw([pass]).every(Number.isFinite)).toBe(true);
        }),
        { numRuns: 8 },
      );
    });

    // A slide that wraps shows what lies past a border on purpose.
    if (spec.reads && spec.id !== 'slide')
      it('reads no more of the picture than it says, so that the least enlargement hides every border', () => {
        // Black past the border: the enlarged picture must show none of it.
        const [width, height] = [W, H];
        fc.assert(
          fc.property(anyParams(spec), fc.nat(), (params, seed) => {
            const pass = passOf(spec, params, { ...context, seed });
            if (!pass) return;
            const factor = enlargement([pass], EFFECTS, width / height);
            if (factor >= 20) return;
            const edge = { left: -width / height / 2, top: -0.5 };
            const kernels = lower([enlargementPass(factor, EFFECTS), pass], { width, height });
            const bordered = kernels.reduce<(x: number, y: number, out: Float64Array) => void>(
              (below, step) =>
                KERNELS.get(step.kernel)!.reference(step.uniforms, below, {
                  layers: [],
                  view: { width, height },
                  table: null,
                }),
              (x, y, out) =>
                out.fill(
                  x < edge.left - 1e-9 || y < edge.top - 1e-9 || x > -edge.left + 1e-9 || y > -edge.top + 1e-9 ? 0 : 1,
                ),
            );
            const out = new Float64Array(4);
            for (let y = 0; y <= 20; y++)
              for (let x = 0; x <= 20; x++) {
                bordered((x / 20 - 0.5) * (width / height), y / 20 - 0.5, out);
                expect(out[0]).toBe(1);
              }
          }),
          { numRuns: 25 },
        );
      });
  },
);

describe('composition', () => {
  const group = (...passes: Pass[]) => drawGroups(lower(passes, { width: 1280, height: 720 }));
  const five = ['punch', 'shake', 'rattle', 'wave', 'swim'].map((id) => of(id, { ...EFFECTS.get(id)!.thumbnail }));

  it('costs one sampling for a stack of five moves, and cuts what would read too often', () => {
    expect(group(...five)).toHaveLength(1);
    expect(costOf(lower(five, { width: 1280, height: 720 }))).toEqual({ draws: 1, reads: 1 });
    expect(group(...[1, 2, 3, 4].map(() => of('split', { amount: 2 }))).map((g) => g.steps.length)).toEqual([3, 1]);
    expect(group()).toEqual([{ steps: [], scale: undefined, edge: undefined }]);
  });

  it('costs of the same order for a Gaussian blur of any radius', () => {
    const reads = [4, 16, 60, 200, 600].map(
      (px) => costOf(lower([of('soft', { radius: (px * 100) / 1080 })], { width: 1920, height: 1080 })).reads,
    );
    expect(Math.max(...reads)).toBeLessThan(80);
    expect(reads[4]).toBeLessThan(reads[1]!);
  });

  it('writes each struct once, each use with its own names, and every uniform of them has a value', () => {
    const [one] = group(of('punch', { zoom: 120 }), of('punch', { zoom: 120 }), of('flash', { exposure: 1 }));
    const glsl = composeGlsl(one!);
    expect(glsl.match(/struct Punch/g)).toHaveLength(1);
    expect(glsl).toContain('image1(vec2 p) { return image0(effect1(u1, p)); }');
    expect([...groupUniforms(one!)].map(([name]) => name)).toEqual([
      'u0.focus',
      'u0.turn',
      'u1.focus',
      'u1.turn',
      'u2.gain',
      'u2.tint',
    ]);
  });

  it('applies moves to what lies below: a punch over a flash equals a flash over a punch', () => {
    const [punch, flash] = [of('punch', { zoom: 150 }), of('flash', { exposure: 1 })];
    const [a, b] = [draw([punch, flash]), draw([flash, punch])];
    a.forEach((value, i) => expect(value).toBeCloseTo(b[i]!, 12));
  });

  it('masks what it draws: inside as without, outside as it was', () => {
    const mask = [
      { box: [0, 0, 0.2, 0.2], soft: [0.002, 0.002, 0.002, 0.002], form: [0, 1, 0, 0], outline: [] },
    ] as const;
    for (const id of ['negative', 'soft', 'glow']) {
      const pass = of(id, { ...EFFECTS.get(id)!.thumbnail });
      const [full, part] = [draw([pass]), draw([{ ...pass, mask }])];
      const middle = (Math.floor(H / 2) * W + W / 2) * 4;
      expect(part[middle]).toBeCloseTo(full[middle]!, 9);
      expect(part[0]).toBeCloseTo(card.data[0]!, 9);
    }
  });

  it('tells how far the picture is thrown', () => {
    expect(displacement([of('rattle', { amount: 5 })], { width: 1280, height: 720 })).toBeCloseTo(0.05, 9);
    expect(displacement([of('flash', { exposure: 2 })], { width: 1280, height: 720 })).toBe(0);
  });
});

describe('worked values', () => {
  const pixel = (pass: Pass, r: number, g = r, b = r): number[] => [...draw([pass], even(r, g, b)).slice(0, 3)];

  it('a stop doubles the light (photographic definition)', () => {
    expect(pixel(of('flash', { exposure: 3 }), 0.1)[0]).toBeCloseTo(0.8, 9);
    expect(pixel(of('flash', { exposure: -1 }), 0.1)[0]).toBeCloseTo(0.05, 9);
  });

  it('a flash that adapts lifts a bright picture less and a dark one more, from its mean at the hit', () => {
    const lift = (light: number): number =>
      Math.log2(pixel(of('flash', { exposure: 3, adapt: 100 }), light)[0]! / light);
    expect(lift(0.18)).toBeCloseTo(3, 6);
    expect(lift(0.72)).toBeCloseTo(1.5, 6);
    expect(lift(0.045)).toBeCloseTo(4.5, 6);
  });

  it('the negative turns displayed values round (IEC 61966-2-1 transfer)', () => {
    expect(fromLinear(pixel(of('negative', { amount: 100 }), toLinear(0.25))[0]!)).toBeCloseTo(0.75, 9);
    expect(
      pixel(of('negative', { amount: 100, green: 0, blue: 0 }), toLinear(0.25)).map((v) =>
        Math.round(fromLinear(v) * 100),
      ),
    ).toEqual([75, 25, 25]);
  });

  it('no saturation is the luminance of ITU-R BT.709: 0.2126, 0.7152, 0.0722', () => {
    expect(pixel(of('saturation', { amount: 0 }), 1, 0, 0)[1]).toBeCloseTo(0.2126, 9);
    expect(pixel(of('saturation', { amount: 0 }), 0, 1, 0)[0]).toBeCloseTo(0.7152, 9);
    expect(pixel(of('saturation', { amount: 0 }), 0, 0, 1)[0]).toBeCloseTo(0.0722, 9);
  });

  // W3C Filter Effects Module Level 1: hueRotate(0) is the identity, the rows keep luminance 0.213, 0.715, 0.072; values at 90 degrees from its formula.
  it('hues turn by the published matrix', () => {
    expect(hueMatrix(0).map((v) => Math.round(v * 1e9) / 1e9 + 0)).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
    expect(hueMatrix(Math.PI / 2).map((v) => Math.round(v * 1000) / 1000)).toEqual([
      0, 0, 1, 0.356, 0.855, -0.211, -0.574, 1.43, 0.144,
    ]);
  });

  it('a raised black point darkens by the published straight line: (v - black) / (white - black)', () => {
    expect(fromLinear(pixel(of('levels', { black: 20 }), toLinear(0.6))[0]!)).toBeCloseTo(0.5, 9);
    expect(fromLinear(pixel(of('levels', { middle: 2 }), toLinear(0.25))[0]!)).toBeCloseTo(0.5, 9);
  });

  it('curves pass through their points and are the identity on the diagonal', () => {
    const at = (params: Record<string, number>, v: number): number =>
      fromLinear(pixel(of('curves', params), toLinear(v))[0]!);
    expect(at({ master50: 70 }, 0.5)).toBeCloseTo(0.7, 9);
    expect(at({ master50: 70 }, 0.25)).toBeCloseTo(0.25, 9);
    expect(at({ blue50: 60 }, 0.37)).toBeCloseTo(0.37, 6);
  });

  it('a step blurred by a Gaussian is its error function (Abramowitz and Stegun, table 26.1)', () => {
    const [width, height] = [128, 64];
    const step: Pixels = {
      width,
      height,
      data: Float64Array.from({ length: width * height * 4 }, (_, i) =>
        i % 4 === 3 || (i >> 2) % width >= width / 2 ? 1 : 0,
      ),
    };
    // A radius of 16 pixels: a standard deviation of 8; the pixel half a pixel from the edge, and one deviation on.
    const out = draw([of('soft', { radius: (16 * 100) / height })], step);
    const at = (x: number): number => out[(32 * width + x) * 4]!;
    expect(at(width / 2 - 1) + at(width / 2)).toBeCloseTo(1, 6);
    // P(1) = 0.8413 lies between the pixels 7.5 and 8.5 from the edge.
    expect((at(width / 2 + 7) + at(width / 2 + 8)) / 2).toBeCloseTo(0.8413, 2);
  });

  it('dropout takes out red, green and blue on three successive frames', () => {
    const spec = EFFECTS.get('dropout')!;
    const kept = [-2, -1, 0].map(
      (age) =>
        (spec.resolve({ ...defaults(spec), amount: 100, drops: 6 }, { ...context, age }) as { keep: number[] }).keep,
    );
    expect(kept).toEqual([
      [0, 1, 1],
      [1, 0, 1],
      [1, 1, 0],
    ]);
  });

  it('an enlargement of 110 % leaves 5 % of travel on each side, which a rattle of 100 % uses up', () => {
    const u = EFFECTS.get('rattle')!.resolve(
      { ...defaults(EFFECTS.get('rattle')!), amount: 100, of: 1, enlarge: 110 },
      { ...context, age: -2 },
    ) as Uniforms;
    expect((u['offset'] as number[])[0]).toBeCloseTo(0.05, 12);
    expect(enlargement([{ effect: 'rattle', uniforms: { ...u, offset: [0, 0.05] } }], EFFECTS, 1)).toBe(1);
  });

  it('red and blue lie as far from green as the split says, and a smear keeps even colours', () => {
    const u = of('split', { amount: 3, angle: 0 }).uniforms;
    expect([u['red'], u['green'], u['blue']]).toEqual([
      [0.03, 0],
      [0, 0],
      [-0.03, -0],
    ]);
    expect(pixel(of('split', { amount: 9, smear: 1 }), 0.2, 0.4, 0.6).map((v) => Math.round(v * 1e6) / 1e6)).toEqual([
      0.2, 0.4, 0.6,
    ]);
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
  it('are at least eighteen with names and ids of their own', () => {
    expect(STARTER_ACCENTS.length).toBeGreaterThanOrEqual(18);
    for (const of of ['id', 'name'] as const)
      expect(new Set(STARTER_ACCENTS.map((a) => a[of])).size).toBe(STARTER_ACCENTS.length);
    expect(readAccents(writeAccents(STARTER_ACCENTS)).accents).toEqual(
      STARTER_ACCENTS.map((a) => JSON.parse(JSON.stringify(a)) as typeof a),
    );
  });

  it.each(STARTER_ACCENTS.map((a) => [a.name, a] as const))(
    '%s uses known effects at their version, draws something, and ends in the identity',
    (_, accent) => {
      const prepared = prepare(accent, { fps: 30, bpm: 120 });
      const at = (age: number) =>
        accentPasses(
          prepared,
          age,
          { intensity: 1, seed: accent.seed, fps: 30, mirror: false, run: SINGLE_RUN },
          EFFECTS,
        );
      for (const use of [...accent.effects, ...accent.effects.flatMap((e) => e.stack ?? [])])
        expect(use.version).toBe(EFFECTS.get(use.effect)!.version);
      for (const use of accent.effects) {
        const spec = EFFECTS.get(use.effect)!;
        for (const [name, param] of Object.entries(use.params)) {
          const identity = spec.params[name]!.identity;
          if (identity !== undefined && !isMoved(param) && typeof param !== 'number')
            expect(evaluate(param, accent.tail), `${accent.name} ${name}`).toBe(identity);
        }
      }
      expect(
        Array.from({ length: accent.lead + accent.tail }, (__, i) => at(i - accent.lead)).some(
          ({ passes, shift }) => passes.length > 0 || shift !== 0,
        ),
      ).toBe(true);
      // Beside looks that are steady inside the accent, its last frame moves nothing.
      expect(displacement(at(accent.tail).passes, { width: 1280, height: 720 })).toBeLessThan(1e-9);
    },
  );
});

describe('plan speed', () => {
  it('answers for any frame of 1,000 placements of eight effects', () => {
    const base = twoClips();
    const hits = Array.from({ length: 1000 }, (_, i) => ({
      id: `h${i}`,
      source: 'one',
      t: i * 0.5,
      kind: 'shot' as const,
      strength: 1,
      confidence: 1,
      evidence: [],
      state: 'kept' as const,
    }));
    const sources = [{ ...base.sources[0]!, duration: 600, video: { ...base.sources[0]!.video!, count: 18000 } }];
    const eight = {
      ...DEFAULT_ACCENT,
      id: 'eight',
      name: 'Eight',
      rate: { num: 30, den: 1 },
      lead: 2,
      tail: 10,
      seed: 1,
      effects: ['punch', 'shake', 'flash', 'split', 'blocks', 'saturation', 'tear', 'vignette'].map((id) => ({
        id,
        effect: id,
        version: 1,
        on: true,
        params: { ...EFFECTS.get(id)!.thumbnail },
      })),
    };
    const m = {
      ...base,
      sources,
      hits,
      clips: [{ id: 'c', source: 'one', in: 0, out: 600, fit: 'fit' as const }],
      accents: [eight],
      rules: [shotRule({ accents: [{ accent: 'eight', weight: 1 }] })],
    };
    const p = planner(m, mediaIndex(m.sources), EFFECTS);
    expect(p.placements).toHaveLength(1000);
    // The bench says how fast; here each of the frames is planned.
    for (let frame = 0; frame < 15000; frame += 3) expect(p.at(frame).frame).toBe(frame);
  });
});

describe('blur along a way', () => {
  it('is the mean over its whole length, however many stages it is made in', () => {
    // A bright column; a streak spreads it over its length, one side or both.
    const [width, height] = [256, 16];
    const column: Pixels = {
      width,
      height,
      data: Float64Array.from({ length: width * height * 4 }, (_, i) =>
        i % 4 === 3 || (i >> 2) % width === 128 ? 1 : 0,
      ),
    };
    const row = (params: Record<string, number>): number[] =>
      Array.from(
        draw([of('streak', params)], column)
          .filter((_, i) => i % 4 === 0)
          .slice(8 * width, 9 * width),
      );
    const spread = (values: readonly number[]): [number, number] => [
      values.findIndex((v) => v > 0.002),
      values.findLastIndex((v) => v > 0.002),
    ];
    for (const length of [4, 40, 120]) {
      const [both, one] = [row({ length: (length * 100) / height }), row({ length: (length * 100) / height, side: 1 })];
      for (const values of [both, one]) expect(values.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 2);
      expect(Math.abs(spread(both)[0] - (128 - length / 2))).toBeLessThanOrEqual(1);
      expect(Math.abs(spread(both)[1] - (128 + length / 2))).toBeLessThanOrEqual(1);
      expect(Math.abs(spread(one)[0] - 128)).toBeLessThanOrEqual(1);
      expect(Math.abs(spread(one)[1] - (128 + length))).toBeLessThanOrEqual(1);
      // Even: the inside is flat.
      const inside = both.slice(128 - length / 2 + 2, 128 + length / 2 - 1);
      expect(Math.max(...inside) / Math.min(...inside)).toBeLessThan(1.2);
    }
  });
});

describe('docs/effects.md', () => {
  it('is what the declarations say, with a picture of each', () => {
    expect(readFileSync(new URL('../../docs/effects.md', import.meta.url), 'utf8')).toBe(describeEffects());
    for (const { id } of EFFECT_LIST)
      expect(existsSync(new URL(`../../docs/effects/${id}.jpg`, import.meta.url)), id).toBe(true);
  });
});
