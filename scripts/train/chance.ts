/** Numbers that are the same in every run. */
export class Chance {
  constructor(private state: number) {}
  /** 0 to 1 (mulberry32, T. Ettinger, public domain). */
  next(): number {
    let t = (this.state += 0x6d2b79f5);
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }
  between(from: number, to: number): number {
    return from + (to - from) * this.next();
  }
  whole(from: number, to: number): number {
    return Math.floor(this.between(from, to + 1));
  }
  signed(): number {
    return this.next() * 2 - 1;
  }
  pick<T>(from: readonly T[]): T {
    return from[Math.floor(this.next() * from.length)]!;
  }
  yes(share: number): boolean {
    return this.next() < share;
  }
}
