import { beatGrid, hasBeat } from '../beats/track.ts';
import type { Detector } from './detector.ts';

export const beats: Detector = {
  id: 'beat',
  version: 3,
  name: 'Beats',
  doc: 'The regular beat of music, following changes of tempo.',
  reference: 'D. P. W. Ellis, "Beat tracking by dynamic programming", J. New Music Research 36(1), 2007',
  kinds: ['beat'],
  musicOnly: true,
  find({ sound, grid }, sensitivity) {
    if (!sound || (!grid && !hasBeat(sound, sensitivity('beat')))) return [];
    const { beats, downbeats, confidence } = grid ?? beatGrid(sound);
    const first = new Set(downbeats);
    return beats.map((t) => ({ t, kind: 'beat' as const, strength: first.has(t) ? 1 : 0.5, confidence }));
  },
};
