/** Names a file by its content without reading it whole. */

const PART = 1 << 20;

/** Hex SHA-256 over the size, and the first, middle and last mebibyte. */
export const fingerprint = (blob: Blob): Promise<string> =>
  digest(blob.size, async (from, to) => blob.slice(from, to).arrayBuffer());

/** The same of what lies at an address that answers ranges. */
export async function fingerprintAt(url: string): Promise<string> {
  const size = Number((await fetch(url, { method: 'HEAD' })).headers.get('Content-Length'));
  return digest(size, async (from, to) =>
    from >= to
      ? new ArrayBuffer(0)
      : (await fetch(url, { headers: { Range: `bytes=${from}-${to - 1}` } })).arrayBuffer(),
  );
}

async function digest(size: number, read: (from: number, to: number) => Promise<ArrayBuffer>): Promise<string> {
  const parts: Uint8Array<ArrayBuffer>[] = [new TextEncoder().encode(`${size}:`)];
  for (const at of [0, Math.floor(size / 2), Math.max(0, size - PART)]) {
    parts.push(new Uint8Array(await read(at, Math.min(size, at + PART))));
  }
  const whole = await new Blob(parts).arrayBuffer();
  const hashed = await crypto.subtle.digest('SHA-256', whole);
  return [...new Uint8Array(hashed)].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}
