/** What the demo shows of layers: a subject that is kept, and a title that counts. */
import { DEFAULT_TITLE, type Montage, type Subject, type Title } from '../../src/core/document/types.ts';

/** The crossbow, which hardly moves in the picture: its outline in shares of it. */
const CROSSBOW: Subject = {
  paths: [
    {
      id: 'crossbow',
      does: 'adds',
      keys: [
        {
          t: 0,
          points: [
            [0.652, 0.712],
            [0.676, 0.688],
            [0.724, 0.716],
            [0.92, 1.01],
            [0.72, 1.01],
          ].map(([x, y]) => ({ x: x!, y: y!, smooth: false })),
        },
      ],
    },
  ],
  grow: 0,
  soft: 0.006,
};

/** On each bolt for as long as its accent lasts. */
const COUNT: Title = {
  ...DEFAULT_TITLE,
  id: 'count',
  text: '{n} of {of}',
  size: 6,
  align: 'left',
  x: -80,
  y: -40,
  where: { kind: 'each', kinds: ['shot'], before: 0, after: 8 },
  comes: 'drop',
  goes: 'cut',
  over: 3,
};

/** The accent that acts behind the crossbow. */
const BEHIND = 'splinter';

export const withLayers = (montage: Montage): Montage => ({
  ...montage,
  sources: montage.sources.map((source) => (source.id === 'lantern-drift' ? { ...source, subject: CROSSBOW } : source)),
  accents: montage.accents.map((accent) => (accent.id === BEHIND ? { ...accent, acts: 'behind' } : accent)),
  titles: [COUNT],
});
