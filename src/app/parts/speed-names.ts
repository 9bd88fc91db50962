/** What the ways of slowing are called wherever they are chosen. */
import type { Between, SlowedSound } from '../../core/document/types.ts';

export const BETWEEN_NAMES: Record<Between, string> = {
  nearest: 'the one before',
  blended: 'both mixed',
  moved: 'made by movement',
};
export const SLOWED_NAMES: Record<SlowedSound, string> = {
  follows: 'slower and lower with it',
  'goes on': 'goes on at its own speed',
  silent: 'silent',
};
