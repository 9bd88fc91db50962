import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import type { Step } from '../../core/accents/effect-spec.ts';
import { cardYuv, picture } from '../testkit/stacks.ts';
import { drawFrame, type Drawer } from './groups.ts';

const VIEW = { width: 64, height: 36 };
const step = (kernel: string): Step => ({
  kernel,
  uniforms: Object.fromEntries(Object.keys(EFFECTS.get(kernel)!.uniforms).map((name) => [name, 0])),
});

/** What a drawer that can do all at once is asked for. */
function asked(steps: readonly Step[], others = 0): string[] {
  const calls: string[] = [];
  const held = new Set<number>();
  let next = 0;
  const take = (): number => {
    held.add(++next);
    return next;
  };
  const drawer: Drawer<number> = {
    acquire: take,
    release: (one) => void held.delete(one),
    develop() {
      calls.push('develop');
      return take();
    },
    drawGroup: ({ group }) => void calls.push(`draw ${group.steps.length}`),
    drawDeveloped: ({ yuv }, { group }) => void calls.push(`${yuv.width} at once ${group.steps.length}`),
  };
  const shown = picture(cardYuv(VIEW.width, VIEW.height));
  drawFrame(drawer, { picture: shown, others: Array.from({ length: others }, () => shown), steps }, VIEW, 0);
  expect(held.size, 'pictures that nobody gave back').toBe(0);
  return calls;
}

describe('what stands still', () => {
  it('is developed and drawn at once, a frame without effects too', () => {
    expect(asked([])).toEqual(['64 at once 0']);
    expect(asked([step('flash'), step('tint')])).toEqual(['64 at once 2']);
  });

  it('is so as long as nothing moves or reads beside its pixel; what follows is drawn over it', () => {
    expect(asked([step('punch'), step('flash')])).toEqual(['develop', 'draw 2']);
    const blur: Step = { ...step('flash'), scale: [0.5, 0.5] };
    expect(asked([step('flash'), blur])).toEqual(['64 at once 1', 'draw 1', 'draw 0']);
    expect(asked([{ ...step('flash'), layers: [{ picture: 0, steps: [] }] }], 1)).toEqual([
      'develop',
      'develop',
      'draw 1',
    ]);
  });
});
