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

/** Texts that a package only names. */
const common = (name) => readFileSync(`/usr/share/common-licenses/${name}`, 'utf8').trim();
const textOf = ({ license, text }) => text || (license === 'Apache-2.0' ? common(license) : '');
const parts = [
  `Akmeon
Its own code is under the MIT licence (see LICENSE). The app as it is built also holds the packages below, each under
its own licence. Their sources are in the package registry under the names and versions given.`,
  ...[...all]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([name, one]) => `${'='.repeat(100)}\n${name} ${one.version} (${one.license})\n\n${textOf(one)}`),
  `${'='.repeat(100)}\nFFmpeg's AAC encoder, compiled to WebAssembly within @mediabunny/aac-encoder (LGPL-2.1-or-later)\n\n${common('LGPL-2.1')}`,
];
writeFileSync('NOTICE', `${parts.join('\n\n')}\n`);
console.log(`${all.size} packages`);
