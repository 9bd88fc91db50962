/** A value that is worked out when it is first asked for. */
export function once<T>(work: () => T): () => T {
  let known: { readonly value: T } | undefined;
  return () => (known ??= { value: work() }).value;
}
