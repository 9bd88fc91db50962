/** Signals and checkpoints as compressed bytes, a third of their size in memory. */

type Typed = Float32Array | Float64Array | Uint8Array | Uint32Array;
const KINDS = { Float32Array, Float64Array, Uint8Array, Uint32Array } as const;

/** Bytes a row of the arrays whose rows change little: kept as differences from the row before. */
const ROWS: Readonly<Record<string, number>> = { bands: 26, chroma: 12, soft: 1, peaks: 1, scores: 1 };

/**
 * Times of a steady rate as what they differ from going on as before: nearly all zero. Null where that
 * would not give back the very same numbers.
 */
function steady(times: Float64Array): Float64Array | null {
  const out = times.slice();
  for (let i = times.length - 1; i >= 2; i--) {
    const going = 2 * times[i - 1]! - times[i - 2]!;
    out[i] = times[i]! - going;
    if (out[i]! + going !== times[i]) return null;
  }
  return out;
}

function unsteady(steps: Float64Array): Float64Array {
  for (let i = 2; i < steps.length; i++) steps[i]! += 2 * steps[i - 1]! - steps[i - 2]!;
  return steps;
}

const isTyped = (value: unknown): value is Typed => ArrayBuffer.isView(value);

/** All first bytes, then all second ones and so on: bytes of a kind compress better side by side. */
function apart(bytes: Uint8Array<ArrayBuffer>, size: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(bytes.length);
  const count = bytes.length / size;
  for (let i = 0; i < count; i++) for (let b = 0; b < size; b++) out[b * count + i] = bytes[i * size + b]!;
  return out;
}

function together(bytes: Uint8Array<ArrayBuffer>, size: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(bytes.length);
  const count = bytes.length / size;
  for (let i = 0; i < count; i++) for (let b = 0; b < size; b++) out[i * size + b] = bytes[b * count + i]!;
  return out;
}

async function through(
  bytes: BlobPart,
  stream: CompressionStream | DecompressionStream,
): Promise<Uint8Array<ArrayBuffer>> {
  return new Uint8Array(await new Response(new Blob([bytes]).stream().pipeThrough(stream)).arrayBuffer());
}

/** Plain data with typed arrays anywhere in it. */
export async function pack(value: unknown): Promise<Uint8Array<ArrayBuffer>> {
  const parts: Uint8Array<ArrayBuffer>[] = [];
  const head = JSON.stringify(value, (key, part: unknown) => {
    if (!isTyped(part)) return part;
    const even = key === 'times' && part instanceof Float64Array ? steady(part) : null;
    const whole = even ?? part;
    const bytes = new Uint8Array(
      whole.buffer.slice(whole.byteOffset, whole.byteOffset + whole.byteLength) as ArrayBuffer,
    );
    const row = ROWS[key];
    if (row) for (let i = bytes.length - 1; i >= row; i--) bytes[i]! -= bytes[i - row]!;
    parts.push(apart(bytes, part.BYTES_PER_ELEMENT));
    return { typed: part.constructor.name, bytes: bytes.length, ...(even ? { steady: true } : {}) };
  });
  const text = new TextEncoder().encode(head);
  const size = new Uint8Array(new Uint32Array([text.length]).buffer);
  return through(await new Blob([size, text, ...parts]).arrayBuffer(), new CompressionStream('gzip'));
}

/** @throws when the bytes are not what {@link pack} made */
export async function unpack<T>(packed: Uint8Array<ArrayBuffer>): Promise<T> {
  const bytes = await through(packed, new DecompressionStream('gzip'));
  const head = new DataView(bytes.buffer).getUint32(0, true);
  let at = 4 + head;
  return JSON.parse(new TextDecoder().decode(bytes.subarray(4, at)), (key, part: unknown) => {
    const typed = part as { typed?: keyof typeof KINDS; bytes: number; steady?: boolean } | null;
    if (typeof part !== 'object' || !typed?.typed) return part;
    const own = together(bytes.slice(at, (at += typed.bytes)), KINDS[typed.typed].BYTES_PER_ELEMENT);
    const row = ROWS[key];
    if (row) for (let i = row; i < own.length; i++) own[i]! += own[i - row]!;
    const whole = new KINDS[typed.typed](own.buffer);
    return typed.steady ? unsteady(whole as Float64Array) : whole;
  }) as T;
}
