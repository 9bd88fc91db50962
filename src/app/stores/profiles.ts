/** Profiles of games and halls, kept in this browser and in files. */
import { liveQuery } from 'dexie';
import { nanoid } from 'nanoid';
import { create } from 'zustand';
import { applyProfile, profileOf, readProfile, writeProfile, type Profile } from '../../core/formats/profile.ts';
import type { Source } from '../../core/montage/types.ts';
import { sentence } from '../../engine/index.ts';
import { database, stored, type StoredProfile } from '../../engine/storage/database.ts';
import { edit, useMontage } from './montage.ts';
import { plainName, saveText } from './opening.ts';
import { notice } from './session.ts';

const kept = create<{ profiles: readonly StoredProfile[] }>(() => ({ profiles: [] }));
// Where storage is refused there are none to list; keeping one says why.
liveQuery(() => database.profiles.orderBy('name').toArray()).subscribe({ next: (profiles) => kept.setState({ profiles }), error: () => undefined });

export const useProfiles = (): readonly StoredProfile[] => kept((s) => s.profiles);

async function keep(profile: Profile): Promise<void> {
  try {
    // One of a name: the newer takes its place.
    const same = await stored(() => database.profiles.where('name').equals(profile.name).first());
    await stored(() => database.profiles.put({ id: same?.id ?? nanoid(8), name: profile.name, updated: Date.now(), profile }));
    notice(`The profile ${profile.name} is kept.`);
  } catch (error) {
    notice(sentence(error), 'trouble');
  }
}

export async function keepAsProfile(name: string, source: Source): Promise<void> {
  const { montage } = useMontage.getState();
  if (montage) await keep(profileOf(name, montage, source));
}

export function applyStoredProfile(profile: Profile, source: Source): void {
  edit((montage) => applyProfile(montage, source.id, profile));
  notice(`${profile.name} is applied to ${source.name}. Undo takes it back.`);
}

export const deleteProfile = async (id: string): Promise<void> => {
  await stored(() => database.profiles.delete(id)).catch((error: unknown) => notice(sentence(error), 'trouble'));
};

export const saveProfileFile = (profile: Profile): void => saveText(writeProfile(profile), `${plainName(profile.name)}.akmeon-profile`);

export async function readProfileFile(file: File): Promise<void> {
  try {
    await keep(readProfile(await file.text()));
  } catch (error) {
    notice(`${file.name}: ${sentence(error)}`, 'trouble');
  }
}
