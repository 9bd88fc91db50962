// Compiles the JSON Schema to a plain validator: a strict content security policy forbids doing so in the page.
import Ajv from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';
import { build } from 'esbuild';
import { mkdir, readFile, writeFile } from 'node:fs/promises';

export async function generate() {
  const folder = new URL('../src/core/formats/', import.meta.url);
  const schema = JSON.parse(await readFile(new URL('akmeon.schema.json', folder), 'utf8'));
  const ajv = new Ajv({ code: { source: true, esm: true }, allErrors: false, strictTypes: false });
  const code = standalone(ajv, ajv.compile(schema));
  await mkdir(new URL('generated/', folder), { recursive: true });
  const bundled = await build({
    stdin: { contents: code, resolveDir: new URL('..', import.meta.url).pathname },
    bundle: true, write: false, format: 'esm', platform: 'neutral', mainFields: ['module', 'main'],
  });
  await writeFile(new URL('generated/validate-akmeon.js', folder), bundled.outputFiles[0].text);
  await writeFile(new URL('generated/validate-akmeon.d.ts', folder),
    'interface Validator { (data: unknown): boolean; errors?: { instancePath: string; message?: string }[] | null }\ndeclare const validate: Validator;\nexport default validate;\n');
}

if (process.argv[1] === new URL(import.meta.url).pathname) await generate();
