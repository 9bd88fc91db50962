// Writes what the code needs from its own declarations: the JSON Schemas with plain validators (a strict content
// security policy forbids compiling them in the page), and the kernels as WebAssembly.
import Ajv from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';
import asc from 'assemblyscript/asc';
import { build } from 'esbuild';
import { mkdir, readFile, writeFile } from 'node:fs/promises';

const at = (path) => new URL(`../${path}`, import.meta.url);

export async function generate() {
  await validators();
  await frequencies();
  await kernels(at('src/core/base/simd/'));
  await kernels(at('src/engine/render/lanes/'), '--importMemory');
}

async function validators() {
  const declared = await build({
    entryPoints: [at('src/core/document/schema.ts').pathname],
    bundle: true,
    write: false,
    format: 'esm',
    platform: 'node',
  });
  const { schemas } = await import(
    `data:text/javascript;base64,${Buffer.from(declared.outputFiles[0].contents).toString('base64')}`
  );
  await mkdir(at('src/core/document/generated/'), { recursive: true });
  await mkdir(at('docs/schema/'), { recursive: true });
  const files = schemas();
  for (const { name, schema } of files)
    await writeFile(at(`docs/schema/${name}.schema.json`), `${JSON.stringify(schema, null, 1)}\n`);
  const ajv = new Ajv({
    code: { source: true, esm: true },
    allErrors: false,
    strictTypes: false,
    allowUnionTypes: true,
    inlineRefs: false,
  });
  // What several files hold is checked by the same functions.
  const all = Object.assign({}, ...files.map(({ schema }) => schema.definitions));
  const roots = files.map(({ name, schema: { $id: _id, $schema: _schema, definitions: _definitions, ...root } }) => [
    `file-${name}`,
    root,
  ]);
  ajv.addSchema({ $id: 'files', definitions: { ...all, ...Object.fromEntries(roots) } });
  const exported = files.map(({ name }) => [name, `files#/definitions/file-${name}`]);
  const bundled = await build({
    stdin: { contents: standalone(ajv, Object.fromEntries(exported)), resolveDir: at('').pathname },
    bundle: true,
    write: false,
    format: 'esm',
    platform: 'neutral',
    mainFields: ['module', 'main'],
  });
  const folder = at('src/core/document/generated/');
  await writeFile(new URL('validators.js', folder), bundled.outputFiles[0].text);
  await writeFile(
    new URL('validators.d.ts', folder),
    'interface Validator { (data: unknown): boolean; errors?: { instancePath: string; message?: string }[] | null }\n' +
      files.map(({ name }) => `export const ${name}: Validator;\n`).join(''),
  );
}

/** How often each class comes in training, without the weights they stand beside. */
async function frequencies() {
  const folder = at('src/core/finding/kinds/');
  const { frequencies } = JSON.parse(await readFile(new URL('weights.json', folder), 'utf8'));
  await mkdir(new URL('generated/', folder), { recursive: true });
  await writeFile(new URL('generated/frequencies.js', folder), `export default ${JSON.stringify(frequencies)};\n`);
  await writeFile(
    new URL('generated/frequencies.d.ts', folder),
    'declare const frequencies: readonly number[];\nexport default frequencies;\n',
  );
}

async function kernels(folder, ...flags) {
  const { error, stderr, binary } = await compile(await readFile(new URL('kernels.as.ts', folder), 'utf8'), flags);
  if (error) throw new Error(`kernels.as.ts: ${stderr}`);
  await mkdir(new URL('generated/', folder), { recursive: true });
  await writeFile(
    new URL('generated/kernels.js', folder),
    `export default '${Buffer.from(binary).toString('base64')}';\n`,
  );
  await writeFile(new URL('generated/kernels.d.ts', folder), 'declare const base64: string;\nexport default base64;\n');
}

async function compile(source, flags) {
  const stderr = asc.createMemoryStream();
  let binary = null;
  const { error } = await asc.main(
    [
      'kernels.ts',
      '--outFile',
      'kernels.wasm',
      '-Ospeed',
      '--noAssert',
      '--runtime',
      'stub',
      '--enable',
      'simd',
      ...flags,
    ],
    {
      stderr,
      readFile: (name) => (name === 'kernels.ts' ? source : null),
      writeFile: (name, contents) => {
        if (name === 'kernels.wasm') binary = contents;
      },
      listFiles: () => [],
    },
  );
  return { error, stderr: stderr.toString(), binary };
}

if (process.argv[1] === new URL(import.meta.url).pathname) await generate();
