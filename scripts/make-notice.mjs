// Writes NOTICE: the licences of all that is part of the built app, with their texts. Run by hand after a dependency changes.
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';

const own = JSON.parse(readFileSync('package.json', 'utf8'));
/** Packages whose code or fonts reach the browser, with all that they depend on. */
const shipped = Object.keys(own.dependencies).filter(
  (name) => !['express', 'helmet', 'playwright-core', 'bullmq', 'ioredis'].includes(name),
);
const all = new Map();
const visit = (name) => {
  const folder = `node_modules/${name}`;
  if (all.has(name) || !existsSync(`${folder}/package.json`)) return;
  const about = JSON.parse(readFileSync(`${folder}/package.json`, 'utf8'));
  const file = readdirSync(folder).find((entry) => /^(licen[cs]e|copying)/i.test(entry));
  all.set(name, {
    version: about.version,
    license: about.license,
    text: file ? readFileSync(`${folder}/${file}`, 'utf8').trim() : '',
  });
  for (const dependency of Object.keys(about.dependencies ?? {})) visit(dependency);
};
shipped.forEach(visit);

const lgpl = '/usr/share/common-licenses/LGPL-2.1';
const parts = [
  `Akmeon
Its own code is under the MIT licence (see LICENSE). The app as it is built also holds the packages below, each under
its own licence. Their sources are in the package registry under the names and versions given.`,
  ...[...all]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([name, { version, license, text }]) => `${'='.repeat(100)}\n${name} ${version} (${license})\n\n${text}`),
  `${'='.repeat(100)}\nFFmpeg's AAC encoder, compiled to WebAssembly within @mediabunny/aac-encoder (LGPL-2.1-or-later)\n\n${readFileSync(lgpl, 'utf8').trim()}`,
];
writeFileSync('NOTICE', `${parts.join('\n\n')}\n`);
console.log(`${all.size} packages`);
