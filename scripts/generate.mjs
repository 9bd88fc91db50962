// Compiles the JSON Schemas to plain validators (a strict content security policy forbids doing so in the page) and the kernels to WebAssembly.
import Ajv from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';
import asc from 'assemblyscript/asc';
import { build } from 'esbuild';
import { mkdir, readFile, writeFile } from 'node:fs/promises';

export async function generate() {
  const folder = new URL('../src/core/formats/', import.meta.url);
  const ajv = new Ajv({ code: { source: true, esm: true }, allErrors: false, strictTypes: false });
  const schemas = await Promise.all(['akmeon', 'profile', 'accent'].map(async (name) => ({ name, schema: JSON.parse(await readFile(new URL(`${name}.schema.json`, folder), 'utf8')) })));
  for (const { schema } of schemas) ajv.addSchema(schema);
  await mkdir(new URL('generated/', folder), { recursive: true });
  for (const { name, schema } of schemas) await write(folder, name, standalone(ajv, ajv.getSchema(schema.$id)));
  await kernels();
}

async function kernels() {
  const folder = new URL('../src/core/simd/', import.meta.url);
  const { error, stderr, binary } = await compile(await readFile(new URL('kernels.as.ts', folder), 'utf8'));
  if (error) throw new Error(`kernels.as.ts: ${stderr}`);
  await mkdir(new URL('generated/', folder), { recursive: true });
  await writeFile(new URL('generated/kernels.js', folder), `export default '${Buffer.from(binary).toString('base64')}';\n`);
  await writeFile(new URL('generated/kernels.d.ts', folder), 'declare const base64: string;\nexport default base64;\n');
}

async function compile(source) {
  const stderr = asc.createMemoryStream();
  let binary = null;
  const { error } = await asc.main(['kernels.ts', '--outFile', 'kernels.wasm', '-Ospeed', '--noAssert', '--runtime', 'stub', '--enable', 'simd'], {
    stderr,
    readFile: (name) => (name === 'kernels.ts' ? source : null),
    writeFile: (name, contents) => { if (name === 'kernels.wasm') binary = contents; },
    listFiles: () => [],
  });
  return { error, stderr: stderr.toString(), binary };
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
