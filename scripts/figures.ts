/** Tables in docs/detection-figures.md: printed by the commands that measure, and with `--write` put in place by them. */
import { readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const FILE = fileURLToPath(new URL('../docs/detection-figures.md', import.meta.url));

/** Prints the lines; with `write` they take the place of what stands between the marks of that name in the file. */
export function figures(name: string, lines: readonly string[], write: boolean): void {
  const text = lines.join('\n');
  console.log(text);
  if (!write) return;
  const [begin, end] = [`<!-- ${name} -->`, `<!-- end of ${name} -->`];
  const page = readFileSync(FILE, 'utf8');
  const [from, to] = [page.indexOf(begin), page.indexOf(end)];
  if (from < 0 || to < from) throw new Error(`docs/detection-figures.md has no place for ${name}.`);
  writeFileSync(FILE, `${page.slice(0, from + begin.length)}\n\n${text}\n\n${page.slice(to)}`);
}
