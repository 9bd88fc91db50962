/** Signals and checkpoints as compressed bytes, a third of their size in memory. */

type Typed = Float32Array | Float64Array | Uint8Array | Uint32Array;
const KINDS = { Float32Array, Float64Array, Uint8Array, Uint32Array } as const;

/** Bytes a row of the arrays whose rows change little: kept as differences from the row before. */
const ROWS: Readonly<Record<string, number>> = { bands: 26, chroma: 12, peaks: 1, scores: 1 };

const isTyped = (value: unknown): value is Typed => ArrayBuffer.isView(value);

async function through(bytes: BlobPart, stream: CompressionStream | DecompressionStream): Promise<Uint8Array<ArrayBuffer>> {
  return new Uint8Array(await new Response(new Blob([bytes]).stream().pipeThrough(stream)).arrayBuffer());
}

/** Plain data with typed arrays anywhere in it. */
export async function pack(value: unknown): Promise<Uint8Array<ArrayBuffer>> {
  const parts: Uint8Array<ArrayBuffer>[] = [];
  const head = JSON.stringify(value, (key, part: unknown) => {
    if (!isTyped(part)) return part;
    const bytes = new Uint8Array(part.buffer.slice(part.byteOffset, part.byteOffset + part.byteLength) as ArrayBuffer);
    const row = ROWS[key];
    if (row) for (let i = bytes.length - 1; i >= row; i--) bytes[i]! -= bytes[i - row]!;
    parts.push(bytes);
    return { typed: part.constructor.name, bytes: bytes.length };
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
    const typed = part as { typed?: keyof typeof KINDS; bytes: number } | null;
    if (typeof part !== 'object' || !typed?.typed) return part;
    const own = bytes.slice(at, (at += typed.bytes));
    const row = ROWS[key];
    if (row) for (let i = row; i < own.length; i++) own[i]! += own[i - row]!;
    return new KINDS[typed.typed](own.buffer);
  }) as T;
}
