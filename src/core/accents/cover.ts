/** Hiding borders: how far a stack of effects reads past the frame, and how much enlargement hides that. */
import type { Box, EffectRegistry } from './effect-spec.ts';
import type { Pass } from './passes.ts';

const united = (a: Box, b: Box): Box => ({
  left: Math.min(a.left, b.left),
  top: Math.min(a.top, b.top),
  right: Math.max(a.right, b.right),
  bottom: Math.max(a.bottom, b.bottom),
});

/** Moments of an open shutter that are looked at. */
const MOMENTS = 9;

/** The part of the lowest picture that a stack reads to show a box, at the most. In frame heights. */
function readBy(passes: readonly Pass[], effects: EffectRegistry, aspect: number, box: Box): Box {
  return passes.reduceRight((seen, pass) => {
    if (pass.moments) return pass.moments.map((moment) => readBy(moment, effects, aspect, seen)).reduce(united, seen);
    if (pass.shutter) {
      const { effects: ids, at, open } = pass.shutter;
      let all = seen;
      for (let i = 0; i < MOMENTS; i++) {
        const uniforms = at(((i + 0.5) / MOMENTS - 0.5) * open);
        all = united(
          all,
          ids.reduceRight(
            (b, id, k) => (uniforms[k] ? (effects.get(id)?.reads?.(uniforms[k], b, aspect) ?? b) : b),
            seen,
          ),
        );
      }
      return all;
    }
    const read = effects.get(pass.effect)?.reads?.(pass.uniforms, seen, aspect) ?? seen;
    return pass.mask ? united(read, seen) : read;
  }, box);
}

/** The factor by which the picture must at least be enlarged about its middle; 1 where nothing is read past its border. */
export function enlargement(passes: readonly Pass[], effects: EffectRegistry, aspect: number): number {
  const frame = { left: -aspect / 2, top: -0.5, right: aspect / 2, bottom: 0.5 };
  const read = readBy(passes, effects, aspect, frame);
  // A hair more, so that the border itself is never between two samples.
  const needed = Math.max(
    -read.left / frame.right,
    read.right / frame.right,
    -read.top / frame.bottom,
    read.bottom / frame.bottom,
  );
  return needed > 1 ? Math.min(needed * 1.002, 20) : 1;
}

/** The enlargement as a pass below the stack. An enlargement s leaves (s - 1) / 2 of the frame's size on each side. */
export function enlargementPass(factor: number, effects: EffectRegistry): Pass {
  for (const { id, enlarge } of effects.values()) if (enlarge) return { effect: id, uniforms: enlarge(factor) };
  throw new Error('No effect enlarges the picture.');
}
