// Compiles the JSON Schema to a plain validator: a strict content security policy forbids doing so in the page.
import Ajv from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';
import { build } from 'esbuild';
import { mkdir, readFile, writeFile } from 'node:fs/promises';

export async function generate() {
  const folder = new URL('../src/core/formats/', import.meta.url);
  const ajv = new Ajv({ code: { source: true, esm: true }, allErrors: false, strictTypes: false });
  const schemas = await Promise.all(['akmeon', 'profile', 'accent'].map(async (name) => ({ name, schema: JSON.parse(await readFile(new URL(`${name}.schema.json`, folder), 'utf8')) })));
  for (const { schema } of schemas) ajv.addSchema(schema);
  await mkdir(new URL('generated/', folder), { recursive: true });
  for (const { name, schema } of schemas) await write(folder, name, standalone(ajv, ajv.getSchema(schema.$id)));
}

async function write(folder, name, code) {
  const bundled = await build({
    stdin: { contents: code, resolveDir: new URL('..', import.meta.url).pathname },
    bundle: true, write: false, format: 'esm', platform: 'neutral', mainFields: ['module', 'main'],
  });
  await writeFile(new URL(`generated/validate-${name}.js`, folder), bundled.outputFiles[0].text);
  await writeFile(new URL(`generated/validate-${name}.d.ts`, folder),
    'interface Validator { (data: unknown): boolean; errors?: { instancePath: string; message?: string }[] | null }\ndeclare const validate: Validator;\nexport default validate;\n');
}

if (process.argv[1] === new URL(import.meta.url).pathname) await generate();
