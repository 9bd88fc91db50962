/**
 * Agglomerative clustering with average linkage (R. R. Sokal and C. D. Michener, "A statistical method for evaluating
 * systematic relationships", Univ. Kansas Science Bulletin 38, 1958), over known pairs alone: what was not compared
 * does not count. Pairs are taken in order of likeness, equal ones in order of their members, so that the result does
 * not hang on the order of the input.
 */

export interface Pair {
  readonly a: number;
  readonly b: number;
  /** More is more alike. */
  readonly likeness: number;
}

interface Link {
  sum: number;
  count: number;
}

interface Waiting {
  readonly a: number;
  readonly b: number;
  readonly mean: number;
}

/** A heap with the most alike pair first. */
class Heap {
  private readonly items: Waiting[] = [];

  private before(i: number, j: number): boolean {
    const [x, y] = [this.items[i]!, this.items[j]!];
    return x.mean !== y.mean ? x.mean > y.mean : x.a !== y.a ? x.a < y.a : x.b < y.b;
  }

  private swap(i: number, j: number): void {
    [this.items[i], this.items[j]] = [this.items[j]!, this.items[i]!];
  }

  push(item: Waiting): void {
    let i = this.items.push(item) - 1;
    while (i > 0 && this.before(i, (i - 1) >> 1)) {
      this.swap(i, (i - 1) >> 1);
      i = (i - 1) >> 1;
    }
  }

  pop(): Waiting | undefined {
    const first = this.items[0];
    const last = this.items.pop();
    if (first === undefined || last === undefined || !this.items.length) return first;
    this.items[0] = last;
    for (let i = 0; ;) {
      let best = i;
      for (const child of [2 * i + 1, 2 * i + 2])
        if (child < this.items.length && this.before(child, best)) best = child;
      if (best === i) return first;
      this.swap(i, best);
      i = best;
    }
  }
}

/** Two clusters become one, named by the lower of their first members, at a mean likeness. */
export interface Merge {
  readonly a: number;
  readonly b: number;
  readonly mean: number;
}

/** All merges down to a mean likeness, in their order: a higher cut takes only the first of them. */
export function averageLinkage(count: number, pairs: readonly Pair[], least: number): Merge[] {
  const links: Map<number, Link>[] = Array.from({ length: count }, () => new Map<number, Link>());
  const heap = new Heap();
  for (const { a, b, likeness } of pairs) {
    if (a === b) continue;
    const link = { sum: likeness, count: 1 };
    links[a]!.set(b, link);
    links[b]!.set(a, link);
    if (likeness >= least) heap.push({ a: Math.min(a, b), b: Math.max(a, b), mean: likeness });
  }
  const gone = new Uint8Array(count);
  const merges: Merge[] = [];
  for (let next = heap.pop(); next; next = heap.pop()) {
    const { a, b, mean } = next;
    const link = links[a]!.get(b);
    // A pair that was joined with others since has another mean by now.
    if (gone[a] || gone[b] || !link || link.sum / link.count !== mean) continue;
    merges.push(next);
    gone[b] = 1;
    links[a]!.delete(b);
    links[b]!.delete(a);
    for (const [other, theirs] of links[b]!) {
      const own = links[a]!.get(other);
      const joined = own ? { sum: own.sum + theirs.sum, count: own.count + theirs.count } : theirs;
      links[a]!.set(other, joined);
      links[other]!.set(a, joined);
      links[other]!.delete(b);
      // Of what b was linked with, only that has another mean now.
      const at = joined.sum / joined.count;
      if (at >= least) heap.push({ a: Math.min(a, other), b: Math.max(a, other), mean: at });
    }
    links[b]!.clear();
  }
  return merges;
}

/** Members of each cluster at a cut, ascending, clusters by their first member; none in two clusters. */
export function clustersAt(count: number, merges: readonly Merge[], cut: number): number[][] {
  const members: (number[] | null)[] = Array.from({ length: count }, (_, i) => [i]);
  for (const { a, b, mean } of merges) {
    if (mean < cut) break;
    for (const member of members[b]!) members[a]!.push(member);
    members[b] = null;
  }
  return members.flatMap((list) => (list ? [list.sort((x, y) => x - y)] : []));
}
