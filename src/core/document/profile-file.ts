/** Reading `.akmeon-profile` files: apart from what profiles are, for its check is large and few pages need it. */
import { PROFILE_VERSION, type Profile } from './types.ts';
import { readDocument } from './document.ts';
import { profile as validate } from './generated/validators.js';
import { PROFILE_MIGRATIONS } from './profile.ts';

/** @throws FormatError with a sentence for the person. */
export const readProfile = (text: string): Profile =>
  readDocument(text, {
    what: 'profile',
    format: 'akmeon-profile',
    version: PROFILE_VERSION,
    migrations: PROFILE_MIGRATIONS,
    validate,
  }) as Profile;
