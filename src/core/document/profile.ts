/**
 * What is known of one game or hall, kept under a name and in `.akmeon-profile` files: watched
 * rectangles with their examples, example sounds, named families, the sound's delay, what its tracks hold, and sensitivities.
 */
import { PROFILE_VERSION, type Montage, type Profile, type Source } from './types.ts';
import type { Migrations } from './document.ts';

/** What a montage knows, with the delay and the tracks of one of its sources. */
export const profileOf = (
  name: string,
  { watches, examples, sensitivity, families }: Montage,
  { delay, tracks, content, shields }: Pick<Source, 'delay' | 'tracks' | 'content' | 'shields'>,
): Profile => ({
  format: 'akmeon-profile',
  version: PROFILE_VERSION,
  name,
  watches,
  // Examples belong to all recordings of the game, not to the source they were cut from.
  examples: examples.map((example) => ({ ...example, only: null })),
  delay,
  tracks,
  sensitivity,
  // What the answers were, not which hits of this recording they were given for.
  families: families
    .filter(({ state, examples }) => state !== 'open' && examples.length)
    .map((family) => ({ ...family, members: [] })),
  content,
  ...(shields && { shields }),
});

/** The montage with what the profile knows: its own watches and examples stay, those of the same id are replaced. */
export function applyProfile(montage: Montage, source: string, profile: Profile): Montage {
  const joined = <T extends { readonly id: string }>(own: readonly T[], more: readonly T[]): T[] => [
    ...own.filter((one) => !more.some((other) => other.id === one.id)),
    ...more,
  ];
  return {
    ...montage,
    watches: joined(montage.watches, profile.watches),
    examples: joined(montage.examples, profile.examples),
    // A family that is known here already keeps its members and its answer.
    families: joined(profile.families, montage.families),
    sensitivity: { ...montage.sensitivity, ...profile.sensitivity },
    sources: montage.sources.map((one) =>
      one.id === source
        ? {
            ...one,
            game: profile.name,
            delay: profile.delay,
            tracks: one.tracks.map((role, i) => profile.tracks[i] ?? role),
            content: profile.content,
            ...(profile.shields && { shields: profile.shields }),
          }
        : one,
    ),
  };
}

export const PROFILE_MIGRATIONS: Migrations = {
  1: (document) => ({ ...document, version: 2, families: [], content: 'unsaid' }),
};

export const writeProfile = (profile: Profile): string => `${JSON.stringify(profile, null, 1)}\n`;
