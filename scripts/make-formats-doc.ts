/** Writes docs/formats.md: `npm run docs:formats`. */
import { writeFile } from 'node:fs/promises';
import { describeFormats } from '../src/core/formats/describe.ts';

await writeFile(new URL('../docs/formats.md', import.meta.url), describeFormats());
