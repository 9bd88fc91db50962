/** Harbour Nights: what happens when. Frames at 30 a second; the media are drawn and played from this list. */

export const RATE = 30;
export const WIDTH = 960;
export const HEIGHT = 540;
export const SOUND_RATE = 48000;

export interface DemoEvent {
  readonly frame: number;
  readonly kind: 'shot' | 'impact' | 'popup';
  /** 0-1 */
  readonly strength: number;
}

const shot = (frame: number, strength = 0.8): DemoEvent => ({ frame, kind: 'shot', strength });
const impact = (frame: number, strength = 0.8): DemoEvent => ({ frame, kind: 'impact', strength });
const popup = (frame: number): DemoEvent => ({ frame, kind: 'popup', strength: 1 });

/** A round of the imaginary arena game "Lantern Drift". */
export const LANTERN_DRIFT = {
  file: 'lantern-drift.mp4', frames: 360,
  events: [shot(32), shot(71, 0.7), popup(74), shot(110, 1), shot(139, 0.6), popup(142), shot(188), shot(214, 0.9), popup(217), shot(263, 0.7), shot(300, 1), popup(303), shot(331, 0.8)],
} as const;

/** A rally of "rampart ball", an imaginary wall sport. */
export const RAMPART_RALLY = {
  file: 'rampart-rally.mp4', frames: 240,
  events: [impact(24, 0.7), impact(58), impact(93, 0.6), impact(121, 1), impact(160, 0.7), impact(192, 0.9), impact(221, 0.8)],
} as const;

/** "Low Tide Signal": 120 beats a minute, build-up from 4 s, drop at 8 s. */
export const MUSIC = { file: 'low-tide-signal.ogg', seconds: 20, bpm: 120, drop: 8, fakeRise: 3.5 } as const;
