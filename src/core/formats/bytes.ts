/** Files that are no text, one letter a byte, so that all formats are read and written alike. */

export class Bytes {
  at = 0;
  constructor(private readonly text: string) {}
  get left(): number {
    return this.text.length - this.at;
  }
  u8(): number {
    return this.at < this.text.length ? this.text.charCodeAt(this.at++) & 255 : 0;
  }
  /** The highest byte first. */
  big(count: number): number {
    let value = 0;
    for (let i = 0; i < count; i++) value = value * 256 + this.u8();
    return value;
  }
  /** The lowest byte first. */
  little(count: number): number {
    let value = 0;
    for (let i = 0; i < count; i++) value += this.u8() * 256 ** i;
    return value;
  }
  word(count: number): string {
    const word = this.text.slice(this.at, this.at + count);
    this.at += count;
    return word;
  }
}

const byte = (value: number): string => String.fromCharCode(value & 255);
export const big = (value: number, count: number): string =>
  Array.from({ length: count }, (_, i) => byte(Math.floor(value / 256 ** (count - 1 - i)))).join('');
export const little = (value: number, count: number): string =>
  Array.from({ length: count }, (_, i) => byte(Math.floor(value / 256 ** i))).join('');

/** Text as UTF-8, a letter a byte, and back; bytes that are no UTF-8 are taken as Latin 1. */
export const encoded = (text: string): string =>
  unescape(encodeURIComponent(text.replace(/\p{Surrogate}/gu, '\ufffd')));
export function decoded(bytes: string): string {
  try {
    return decodeURIComponent(escape(bytes));
  } catch {
    return bytes;
  }
}
