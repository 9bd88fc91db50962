/** Close repeats of one kind: automatic fire, a drum roll. */
import type { Hit, HitKind } from '../../document/types.ts';

/** Most seconds from one member to the next, by kind; drums repeat as fast in plain bars, so a roll is faster. */
const GAP: Partial<Record<HitKind, number>> = { shot: 0.22, impact: 0.22, flash: 0.22, kick: 0.09, snare: 0.09 };
const LEAST_MEMBERS = 3;
/** Gaps of one burst differ by less than this share of their mean. */
const UNEVEN = 0.4;

/** The same hits, members of a burst with the id of its first. In order of time. */
export function withBursts(hits: readonly Hit[]): Hit[] {
  const out = [...hits];
  for (const [kind, gap] of Object.entries(GAP) as [HitKind, number][]) {
    const own = out.map((hit, i) => ({ hit, i })).filter(({ hit }) => hit.kind === kind);
    for (let from = 0; from < own.length;) {
      let to = from + 1;
      let first = 0;
      while (to < own.length) {
        const step = own[to]!.hit.t - own[to - 1]!.hit.t;
        if (step > gap || (first && Math.abs(step - first) > UNEVEN * first)) break;
        first ||= step;
        to++;
      }
      if (to - from >= LEAST_MEMBERS)
        for (let k = from; k < to; k++) out[own[k]!.i] = { ...own[k]!.hit, burst: own[from]!.hit.id };
      from = to;
    }
  }
  return out;
}
