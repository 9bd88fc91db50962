/** `npm run judge [-- kinds | families | mattes] [options]`: what the engine makes of recordings and scenes it never met. */
const asked = process.argv[2]?.startsWith('-') ? undefined : process.argv[2];
if (asked) process.argv.splice(2, 1);
if (asked === 'families') await import('./judge-families.ts');
else if (asked === 'mattes') await import('./judge-mattes.ts');
else if (!asked || asked === 'kinds') await import('./judge-kinds.ts');
else {
  console.error(`There is nothing called ${asked} to judge: kinds, families or mattes.`);
  process.exitCode = 2;
}

export {};
