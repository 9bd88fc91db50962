/** What the ways of slowing and of joining are called wherever they are chosen. */
import type { Between, JoinKind, RampEnd, SlowedSound } from '../../core/document/types.ts';

export const BETWEEN_NAMES: Record<Between, string> = {
  nearest: 'the one before',
  blended: 'both mixed',
  moved: 'made by movement',
};
export const SLOWED_NAMES: Record<SlowedSound, string> = {
  follows: 'slower and lower with it',
  stretched: 'slower, as high as it was',
  'goes on': 'goes on at its own speed',
  silent: 'silent',
};
export const JOIN_NAMES: Record<JoinKind, string> = {
  fade: 'fading over',
  flow: 'flowing on, by movement',
};
export const RAMP_END_NAMES: Record<RampEnd, string> = {
  steps: 'after its frames',
  end: 'where the hit’s movement ends',
  next: 'at the next hit of the clip',
};
