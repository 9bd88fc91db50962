/** A number of things in words: "1 hit", "3 hits". */
export const counted = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`;
