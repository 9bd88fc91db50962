/** What tells one document from another, small where little differs: documents share what an edit left alone. */

/** A change of a JSON value. A list of things with ids is changed thing by thing, everything else as a whole. */
export type Patch =
  | { readonly value: unknown }
  | { readonly fields: Readonly<Record<string, Patch>>; readonly without: readonly string[] }
  | { readonly items: Readonly<Record<string, Patch>>; readonly order?: readonly string[] };

type Named = readonly { readonly id: string }[];

const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const isNamed = (value: unknown): value is Named =>
  Array.isArray(value) && value.every((item) => isRecord(item) && typeof item['id'] === 'string');

/** Whether two values hold the same; what both share is not looked into. */
export function isSame(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((item, i) => isSame(item, b[i]));
  if (!isRecord(a) || !isRecord(b)) return false;
  const names = Object.keys(a);
  return names.length === Object.keys(b).length && names.every((name) => name in b && isSame(a[name], b[name]));
}

/** What makes `to` out of `from`; null where they are equal. What both share is not looked into. */
export function patchOf(from: unknown, to: unknown): Patch | null {
  if (from === to) return null;
  if (isNamed(from) && isNamed(to)) {
    const before = new Map(from.map((item) => [item.id, item]));
    const items: Record<string, Patch> = {};
    for (const item of to) {
      const patch = patchOf(before.get(item.id), item);
      if (patch) items[item.id] = patch;
    }
    const same = from.length === to.length && to.every(({ id }, i) => id === from[i]!.id);
    if (same && !Object.keys(items).length) return null;
    return same ? { items } : { items, order: to.map(({ id }) => id) };
  }
  if (isRecord(from) && isRecord(to)) {
    const fields: Record<string, Patch> = {};
    for (const [name, value] of Object.entries(to)) {
      const patch = name in from ? patchOf(from[name], value) : { value };
      if (patch) fields[name] = patch;
    }
    const without = Object.keys(from).filter((name) => !(name in to));
    return without.length || Object.keys(fields).length ? { fields, without } : null;
  }
  return Array.isArray(from) && Array.isArray(to) && JSON.stringify(from) === JSON.stringify(to) ? null : { value: to };
}

/** The value that a patch makes. @throws TypeError where it is not a patch of this value */
export function patched(from: unknown, patch: Patch | null): unknown {
  if (patch === null) return from;
  if ('value' in patch) return patch.value;
  if ('items' in patch) {
    if (!isNamed(from)) throw new TypeError('a patch of a list meets no list');
    const before = new Map<string, unknown>(from.map((item) => [item.id, item]));
    return (patch.order ?? from.map(({ id }) => id)).map((id) => patched(before.get(id), patch.items[id] ?? null));
  }
  if (!isRecord(from)) throw new TypeError('a patch of fields meets none');
  const left = Object.entries(from).filter(([name]) => !patch.without.includes(name));
  const made = Object.entries(patch.fields).map(([name, part]) => [name, patched(from[name], part)] as const);
  return Object.fromEntries([...left, ...made]);
}
