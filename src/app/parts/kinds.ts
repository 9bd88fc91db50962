/** Colours and letters of hit kinds, the same wherever hits are drawn. */
import type { HitKind } from '../../core/document/types.ts';

export const KIND_COLOURS: Record<HitKind, string> = {
  shot: '#f2a541',
  impact: '#e8846b',
  kick: '#c58af0',
  snare: '#b0a2f5',
  hat: '#93b7f2',
  note: '#8fb3d9',
  beat: '#7fd0e0',
  drop: '#f06ab0',
  flash: '#f7e08a',
  jolt: '#d8d06a',
  strike: '#e9a0a0',
  popup: '#7ee0a8',
  cut: '#8a9aa0',
  join: '#58c2bc',
  match: '#b6e36a',
  mark: '#ffffff',
};

export const kindName = (kind: HitKind): string => (kind === 'kick' ? 'bass drum' : kind);
