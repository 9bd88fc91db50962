import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Montage } from '../../core/document/types.ts';
import { addMark, setName, setSettings } from '../../core/document/edits.ts';
import { splitClip, trimClip } from '../../core/timeline/row.ts';
import { twoClips } from '../../core/testkit/montages.ts';

const written: Montage[] = [];
vi.mock('../../engine/index.ts', () => ({
  EngineError: class extends Error {},
  sentence: String,
  addMontage: () => Promise.resolve(),
  storedMontage: () => Promise.resolve(undefined),
  storeMontage: (montage: Montage) => Promise.resolve(void written.push(montage)),
}));
const { useMontage } = await import('./montage.ts');
const state = () => useMontage.getState();
const bytes = (): string => JSON.stringify(state().montage);

describe('undo and redo', () => {
  beforeEach(() => state().load(twoClips(), false));

  it('lead to both ends to the byte, however the way goes', () => {
    let roll = 7;
    const random = (): number => (roll = (roll * 16_807) % 2_147_483_647) / 2_147_483_647;
    const seen = [bytes()];
    for (let i = 0; i < 1500; i++) {
      const { clips } = state().montage!;
      const clip = clips[Math.floor(random() * clips.length)]!;
      const at = clip.in + random() * (clip.out - clip.in);
      const before = bytes();
      const edits = [
        splitClip(clip.id, at, `s${i}`),
        trimClip(clip.id, { out: at + 0.2 }),
        addMark(`m${i}`, clip.source, at),
        setName(`N${i}`),
        setSettings({ clipGain: random() }),
      ];
      state().edit(edits[i % edits.length]!);
      if (bytes() !== before) seen.push(bytes());
      if (i % 7 === 0) {
        state().undo();
        expect(bytes()).toBe(seen.at(-2));
        state().redo();
      }
    }
    const last = bytes();
    // As many steps as are kept.
    const steps = state().past.length;
    expect(steps).toBe(500);
    for (let i = 0; i < steps + 3; i++) state().undo();
    expect(bytes()).toBe(seen.at(-1 - steps));
    for (let i = 0; i < steps + 3; i++) state().redo();
    expect(bytes()).toBe(last);
    state().walk(-Infinity);
    state().walk(Infinity);
    expect(bytes()).toBe(last);
  });

  it('change nothing that followed from a step: what is amended is amended with the step', () => {
    state().edit(setName('One'));
    state().amend(setSettings({ clipGain: 0.25 }));
    const amended = bytes();
    state().undo();
    state().amend(setName('Other'));
    state().redo();
    state().amend(setName('Other'));
    expect(bytes()).toBe(amended);
    // A new step may be.
    state().edit(setName('Two'));
    state().amend(setSettings({ clipGain: 0.5 }));
    expect(state().montage).toMatchObject({ name: 'Two', settings: { clipGain: 0.5 } });
  });
});
