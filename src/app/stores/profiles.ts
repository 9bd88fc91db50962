/** Profiles of games and halls, kept in this browser and in files. */
import { applyProfile, profileOf, writeProfile } from '../../core/document/profile.ts';
import type { Profile, Source } from '../../core/document/types.ts';
import { profileTable, sentence } from '../../engine/index.ts';
import { expectAnswers, sortFamilies } from './families.ts';
import { edit, useMontage } from './montage.ts';
import { plainName, saveText } from './opening.ts';
import { notice } from './view.ts';
import { shelf } from './shelf.ts';

const kept = shelf(profileTable);
export const useProfiles = kept.use;
export const deleteProfile = kept.drop;

const keep = (profile: Profile): Promise<void> =>
  kept.keep(profile.name, { profile }, `The profile ${profile.name} is kept.`);

export async function keepAsProfile(name: string, source: Source): Promise<void> {
  const { montage } = useMontage.getState();
  if (montage) await keep(profileOf(name, montage, source));
}

export function applyStoredProfile(profile: Profile, source: Source): void {
  edit((montage) => applyProfile(montage, source.id, profile));
  expectAnswers(source.id);
  void sortFamilies();
  notice(`${profile.name} is applied to ${source.name}. Undo takes it back.`);
}

export const saveProfileFile = (profile: Profile): void =>
  saveText(writeProfile(profile), `${plainName(profile.name)}.akmeon-profile`);

export async function readProfileFile(file: File): Promise<void> {
  try {
    const { readProfile } = await import('../../core/document/profile-file.ts');
    await keep(readProfile(await file.text()));
  } catch (error) {
    notice(`${file.name}: ${sentence(error)}`, 'error');
  }
}
