/** What a montage holds as files for others: tables, reports, pictures, and rows of clips of other programs, in and out. */
import { nanoid } from 'nanoid';
import { envelopeCsv, envelopeTable, placementsTable } from '../../core/accents/tables.ts';
import { timecode } from '../../core/base/time.ts';
import type { Clip } from '../../core/document/types.ts';
import { carries } from '../../core/document/hits.ts';
import { boundsOf } from '../../core/timeline/row.ts';
import { EFFECTS } from '../../effects/index.ts';
import { sentence } from '../../engine/index.ts';
import { kindName } from '../parts/kinds.ts';
import { derivedNow } from './derived.ts';
import { countFlashes } from './flashes.ts';
import { jobs, say } from './jobs.ts';
import { measureLevels, useLevels } from './levels.ts';
import { sayTaken } from './marks.ts';
import { frameServer } from './media.ts';
import { edit, useMontage } from './montage.ts';
import { fileNameOf, saveFile } from './opening.ts';
import { notice, useView } from './view.ts';

const formats = () => import('../../core/formats/index.ts');

function save(data: BlobPart, what: string, ending: string, mime: string): void {
  const name = `${fileNameOf(useMontage.getState().montage!.name, what)}.${ending}`;
  saveFile(new Blob([data], { type: mime }), name);
  notice(`${name} is in the downloads.`);
}

export function savePlacements(): void {
  const derived = derivedNow();
  if (!derived?.planner.placements.length) return notice('No accent lies on the row yet.', 'error');
  save(placementsTable(derived.planner), 'placements', 'csv', 'text/csv');
}

/** Numbers of all accents of the montage, frame by frame. */
export function saveEnvelopes(as: 'csv' | 'json'): void {
  const derived = derivedNow();
  const { accents = [] } = derived?.montage ?? {};
  if (!derived || !accents.length) return notice('The montage has no accent.', 'error');
  const tables = accents.map((accent) => envelopeTable(accent, derived.planner, EFFECTS));
  if (as === 'json') return save(`${JSON.stringify(tables, null, 1)}\n`, 'envelopes', 'json', 'application/json');
  for (const table of tables) save(envelopeCsv(table), table.accent, 'csv', 'text/csv');
}

/** How loud the mix is and how much flashes, measured now. */
export async function saveReport(): Promise<void> {
  const derived = derivedNow();
  if (!derived?.line.count) return notice('There is nothing to measure yet.', 'error');
  const { montage, line } = derived;
  if (useLevels.getState().of !== montage) await measureLevels();
  const { levels, of } = useLevels.getState();
  const flashes = await countFlashes(derived);
  if (!flashes) return;
  const report = {
    montage: montage.name,
    frames: line.count,
    seconds: line.duration,
    loudness: of === montage ? levels : null,
    flashes: { ...flashes, limit: 'three a second (WCAG 2.2, SC 2.3.1; over the whole screen ITU-R BT.1702)' },
  };
  save(`${JSON.stringify(report, null, 1)}\n`, 'report', 'json', 'application/json');
}

const png = (canvas: OffscreenCanvas): Promise<Blob> => canvas.convertToBlob({ type: 'image/png' });

/** The frame at the playhead at its full size. */
export async function saveFrame(): Promise<void> {
  const derived = derivedNow();
  if (!derived?.line.count) return notice('There is no frame yet.', 'error');
  const { playhead } = useView.getState();
  const { width, height } = derived.montage.settings;
  try {
    const bitmap = await frameServer().bitmap(playhead, { plain: false, width, height });
    const canvas = new OffscreenCanvas(width, height);
    canvas.getContext('2d')!.drawImage(bitmap, 0, 0);
    save(await png(canvas), `frame ${playhead}`, 'png', 'image/png');
  } catch (error) {
    notice(sentence(error), 'error');
  }
}

/** Every frame at its full size, a file each, in a folder that the person picks. What is there of that name is written over. */
export async function saveSequence(): Promise<void> {
  const derived = derivedNow();
  if (!derived?.line.count) return notice('There is no frame yet.', 'error');
  if (!('showDirectoryPicker' in window)) return notice('This browser cannot write into a folder.', 'error');
  const { montage, line } = derived;
  const { width, height } = montage.settings;
  const folder = await window.showDirectoryPicker({ mode: 'readwrite' }).catch(() => null);
  if (!folder) return;
  const digits = Math.max(4, String(line.count - 1).length);
  await jobs
    .run({ kind: 'export', owner: montage.id, label: 'Writing the frames' }, async (job) => {
      const canvas = new OffscreenCanvas(width, height);
      const pen = canvas.getContext('2d')!;
      for (let frame = 0; frame < line.count; frame++) {
        if (job.signal.aborted) return notice(`Stopped: ${frame} frames are in ${folder.name}.`);
        // Frame numbers of another row would be other pictures.
        if (useMontage.getState().montage !== montage)
          return notice(`The montage was changed: ${frame} frames of it as it was are in ${folder.name}.`, 'error');
        job.progress(frame / line.count);
        pen.drawImage(await frameServer().bitmap(frame, { plain: false, width, height }), 0, 0);
        const name = `${fileNameOf(montage.name, String(frame).padStart(digits, '0'))}.png`;
        const file = await folder.getFileHandle(name, { create: true });
        const stream = await file.createWritable();
        await stream.write(await png(canvas));
        await stream.close();
      }
      notice(`${line.count} frames are in ${folder.name}.`);
    })
    .catch(say);
}

/** Pictures of the sheet, pixels; columns; most hits on one: a canvas holds no more. */
const CELL = { width: 256, label: 22, gap: 8, columns: 5, most: 400 };

/** A picture of every kept hit with its number, kind and time. */
export async function saveContactSheet(): Promise<void> {
  const derived = derivedNow();
  const hits = derived?.everywhere.filter(({ hit }) => carries(hit) && hit.kind !== 'join') ?? [];
  if (!derived || !hits.length) return notice('No hit is kept yet.', 'error');
  const { montage, line } = derived;
  const shown = hits.slice(0, CELL.most);
  const high = Math.round((CELL.width * montage.settings.height) / montage.settings.width);
  const rows = Math.ceil(shown.length / CELL.columns);
  const canvas = new OffscreenCanvas(
    CELL.columns * (CELL.width + CELL.gap) + CELL.gap,
    rows * (high + CELL.label + CELL.gap) + CELL.gap,
  );
  const pen = canvas.getContext('2d')!;
  pen.fillStyle = '#0d1418';
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.font = '13px "Inter Variable", sans-serif';
  await jobs
    .run({ kind: 'levels', owner: montage.id, label: 'Drawing the contact sheet' }, async (job) => {
      for (const [i, { frame, hit }] of shown.entries()) {
        if (job.signal.aborted) return;
        job.progress(i / shown.length);
        const x = CELL.gap + (i % CELL.columns) * (CELL.width + CELL.gap);
        const y = CELL.gap + Math.floor(i / CELL.columns) * (high + CELL.label + CELL.gap);
        const size = { width: CELL.width & ~1, height: high & ~1 };
        pen.drawImage(await frameServer().bitmap(frame, { plain: false, ...size }), x, y);
        pen.fillStyle = '#c9d6dc';
        pen.fillText(`${i + 1}  ${kindName(hit.kind)}  ${timecode(frame, line.rate)}`, x, y + high + 15, CELL.width);
      }
      save(await png(canvas), 'hits', 'png', 'image/png');
      if (hits.length > shown.length)
        notice(`The sheet shows the first ${shown.length} of ${hits.length} hits.`, 'error');
    })
    .catch(say);
}

/** The row of clips as another program's timeline. What that cannot hold is said. */
export async function saveRow(id: string): Promise<void> {
  const derived = derivedNow();
  const format = (await formats()).ROW_FORMATS.find((one) => one.id === id);
  if (!derived || !format) return;
  const { montage, line } = derived;
  if (!montage.clips.length) return notice('There is no clip in the row.', 'error');
  const names = new Map(montage.sources.map((source) => [source.id, source.name]));
  const clips = montage.clips.map((clip) => ({ name: names.get(clip.source) ?? '', in: clip.in, out: clip.out }));
  save(format.write(clips, line.rate, montage.name), 'row', format.extensions[0]!, 'text/plain');
  const left = montage.clips.filter((clip) => clip.speed || clip.pins || clip.speeds || clip.join).length;
  if (left) notice(`Speeds and joins of ${left} clips are not in the file: it holds cuts.`, 'error');
}

/** Lines that are named one by one. */
const NAMED = 3;

/** Makes the row of another program's timeline, of what is at hand; what is not is asked for by name. */
export async function readRowFile(file: File): Promise<void> {
  const derived = derivedNow();
  if (!derived) return;
  const { montage, line } = derived;
  const { readRow, plainFileName, MarksError } = await formats();
  try {
    const read = readRow(file.name, await file.text(), line.rate);
    const left = read.left.map(({ line: at, why }) => `${at}: ${why}`);
    const missing = new Set<string>();
    const clips = read.clips.flatMap((clip): Clip[] => {
      const source = montage.sources.find((one) => one.video && plainFileName(one.name) === plainFileName(clip.name));
      if (!source) {
        missing.add(clip.name.split(/[\\/]/).at(-1)!);
        return [];
      }
      const { from, to } = boundsOf(source);
      const [begin, end] = [Math.max(from, clip.in), Math.min(to, clip.out)];
      if (!(end > begin)) {
        left.push(`${clip.line}: its stretch lies beyond ${source.name}`);
        return [];
      }
      if (begin > clip.in + 1e-3 || end < clip.out - 1e-3)
        left.push(`${clip.line}: shortened to what ${source.name} has`);
      return [{ id: nanoid(8), source: source.id, in: begin, out: end, fit: 'fit' }];
    });
    if (missing.size) {
      const names = [...missing].slice(0, NAMED).join(', ');
      left.push(
        `bring in ${names}${missing.size > NAMED ? ` and ${missing.size - NAMED} more` : ''}, then read it again`,
      );
    }
    if (clips.length) edit((m) => ({ ...m, clips }));
    const said = [
      ...left.slice(0, NAMED + 1),
      ...(left.length > NAMED + 1 ? [`and ${left.length - NAMED - 1} more`] : []),
    ];
    sayTaken(`${clips.length} ${clips.length === 1 ? 'clip is' : 'clips are'} in the row from ${file.name}.`, said);
  } catch (error) {
    if (!(error instanceof MarksError)) throw error;
    notice(`${file.name}: ${error.message}`, 'error');
  }
}
