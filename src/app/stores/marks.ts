/** Marks of other programs in, kept hits out. What reads and writes them is fetched when it is asked for. */
import { nanoid } from 'nanoid';
import type { Hit } from '../../core/document/types.ts';
import { carries } from '../../core/document/hits.ts';
import { derivedNow } from './derived.ts';
import { edit } from './montage.ts';
import { fileNameOf, saveFile } from './opening.ts';
import { notice } from './view.ts';

const formats = () => import('../../core/formats/index.ts');

/** Bytes that are turned into letters at once: a call has only so many arguments. */
const AT_ONCE = 8192;
/** Bytes of a file that are read for marks, without its sound. */
const MOST_READ = 32 << 20;

const lettersOf = async (file: Blob): Promise<string> => {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = '';
  for (let i = 0; i < bytes.length; i += AT_ONCE) text += String.fromCharCode(...bytes.subarray(i, i + AT_ONCE));
  return text;
};

/** A WAV file without its samples, which may be hours long: cues lie before or after them. */
async function withoutSamples(file: File): Promise<Blob> {
  const parts: Blob[] = [file.slice(0, 12)];
  for (let at = 12, read = 0; at + 8 <= file.size && read < MOST_READ;) {
    const head = new DataView(await file.slice(at, at + 8).arrayBuffer());
    const size = head.getUint32(4, true);
    const end = Math.min(file.size, at + 8 + size + (size % 2));
    // “data”, the lowest byte first.
    if (head.getUint32(0, true) !== 0x61746164) {
      parts.push(file.slice(at, end));
      read += end - at;
    }
    at = end;
  }
  return new Blob(parts);
}

/** Lines that are named one by one. */
const NAMED = 3;

/** Says what was taken over from a file, and what of it was not. */
export const sayTaken = (taken: string, lost: readonly string[]): void =>
  lost.length ? notice(`${taken} Not taken over: ${lost.join('; ')}.`, 'error') : notice(taken);

/** Sets a hit wherever a file has a mark that the row shows; what cannot be taken over is said by line. */
export async function readMarksFile(file: File): Promise<void> {
  const derived = derivedNow();
  if (!derived || derived.line.count === 0)
    return notice('Bring in footage first: marks are set on what the row shows.', 'error');
  const { line } = derived;
  const { formatOf, readMarks, MarksError } = await formats();
  try {
    const format = formatOf(file.name);
    const whole = format.id === 'wave-cues' ? await withoutSamples(file) : file.slice(0, MOST_READ);
    const text = format.binary ? await lettersOf(whole) : await file.text();
    const { marks, left } = readMarks(file.name, text, line.rate);
    const set: Hit[] = [];
    let beyond = 0;
    for (const { t, kind = 'mark', strength = 1 } of marks) {
      const frame = Math.round(t * line.fps);
      const span = line.spanAt(frame);
      if (!span) {
        beyond++;
        continue;
      }
      set.push({
        id: `mark-${nanoid(8)}`,
        source: span.clip.source,
        t: line.sourceTime(span, line.timeOf(frame)),
        // A join is where two clips meet, and nowhere else.
        kind: kind === 'join' ? 'cut' : kind,
        strength,
        confidence: 1,
        evidence: [],
        state: 'made',
      });
    }
    if (set.length) edit((montage) => ({ ...montage, hits: [...montage.hits, ...set].sort((a, b) => a.t - b.t) }));
    const lost = [
      ...(beyond ? [`${beyond} lie past the end of the row`] : []),
      ...left.slice(0, NAMED).map(({ line: at, why }) => `line ${at}: ${why}`),
      ...(left.length > NAMED ? [`and ${left.length - NAMED} more lines`] : []),
    ];
    sayTaken(`${set.length} ${set.length === 1 ? 'hit is' : 'hits are'} set from ${file.name}.`, lost);
  } catch (error) {
    if (!(error instanceof MarksError)) throw error;
    notice(`${file.name}: ${error.message}`, 'error');
  }
}

/** Gives all kept hits to the browser's downloads, where the montage shows them. */
export async function writeMarksFile(id: string): Promise<void> {
  const derived = derivedNow();
  const { MARKS_FORMATS } = await formats();
  const format = MARKS_FORMATS.find((one) => one.id === id);
  if (!derived || !format) return;
  const { line, montage, everywhere } = derived;
  const marks = everywhere
    .filter(({ hit }) => hit.kind !== 'join' && carries(hit))
    .map(({ hit, frame }) => ({ t: line.timeOf(frame), kind: hit.kind, strength: hit.strength }))
    .sort((a, b) => a.t - b.t);
  if (!marks.length) return notice('No hit is kept: there is nothing to write.', 'error');
  const name = `${fileNameOf(montage.name)}.${format.extensions[0]!}`;
  const text = format.write(marks, line.rate, montage.name);
  const data = format.binary ? Uint8Array.from(text, (letter) => letter.charCodeAt(0)) : text;
  saveFile(new Blob([data], { type: format.mime }), name);
  notice(`${marks.length} hits are in ${name}.`);
}
