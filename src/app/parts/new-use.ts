/** An effect as it is added to an accent. */
import { nanoid } from 'nanoid';
import { hasPlace } from '../../core/accents/effect-spec.ts';
import type { Accent, EffectUse } from '../../core/document/types.ts';
import { EFFECTS } from '../../effects/index.ts';

/** A new effect does something at once: its values on the hit, the identity at both ends. */
export function newUse(accent: Accent, id: string): EffectUse {
  const spec = EFFECTS.get(id)!;
  // Keys of a % accent are shares of its lead and tail, which are frames.
  const [first, last] = accent.unit === '%' ? [-100, 100] : [-accent.lead, accent.tail];
  const params = Object.entries({ ...spec.thumbnail, ...spec.fresh }).map(([name, value]) => {
    const param = spec.params[name]!;
    if (param.identity === undefined) return [name, value] as const;
    const ease = param.scales === false ? ('hold' as const) : ('fast out' as const);
    const keys = [
      ...(accent.lead > 0
        ? [{ at: first, value: param.identity, ease: param.scales === false ? ease : ('linear' as const) }]
        : []),
      { at: 0, value, ease },
      ...(accent.tail > 0 ? [{ at: last, value: param.identity, ease: 'linear' as const }] : []),
    ];
    return [name, keys] as const;
  });
  return {
    id: nanoid(8),
    effect: id,
    version: spec.version,
    on: true,
    ...(hasPlace(spec) && { focus: true }),
    params: Object.fromEntries(params),
  };
}
