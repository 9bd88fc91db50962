/** Names a file by its content without reading it whole. */

const PART = 1 << 20;

/** Hex SHA-256 over the size, and the first, middle and last mebibyte. */
export async function fingerprint(blob: Blob): Promise<string> {
  const parts: Uint8Array<ArrayBuffer>[] = [new TextEncoder().encode(`${blob.size}:`)];
  for (const at of [0, Math.floor(blob.size / 2), Math.max(0, blob.size - PART)]) {
    parts.push(new Uint8Array(await blob.slice(at, at + PART).arrayBuffer()));
  }
  const whole = await new Blob(parts).arrayBuffer();
  const digest = await crypto.subtle.digest('SHA-256', whole);
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}
