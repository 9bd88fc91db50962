/** `npm run judge [-- kinds | families] [options]`: what the engine makes of recordings it never heard. */
const asked = process.argv[2]?.startsWith('-') ? undefined : process.argv[2];
if (asked) process.argv.splice(2, 1);
if (asked === 'families') await import('./judge-families.ts');
else if (!asked || asked === 'kinds') await import('./judge-kinds.ts');
else {
  console.error(`There is nothing called ${asked} to judge: kinds or families.`);
  process.exitCode = 2;
}

export {};
