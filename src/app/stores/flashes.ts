/** Flashes that could hurt, made fewer: placements where too many fall within a second are softened as little as does it. */
import { tooMany, type FlashCount } from '../../core/accents/flashes.ts';
import type { Placement } from '../../core/accents/placements.ts';
import { timecode } from '../../core/base/time.ts';
import { together, type Edit } from '../../core/document/edits.ts';
import { proxy, startFrameServer } from '../../engine/index.ts';
import { derivedNow, type Derived } from './derived.ts';
import { jobs, say } from './jobs.ts';
import { changePlacement } from './laying.ts';
import { frameServer, mediaLocations, useMedia } from './media.ts';
import { edit, useMontage } from './montage.ts';
import { notice, useView } from './view.ts';

/** Halvings by which the least softening is found, and seconds that are softened at the most. */
const HALVINGS = 5;
const MOST_ROUNDS = 60;

const said = ({ general, red }: FlashCount): string => `${general} general and ${red} red`;

/** Counts the flashes of the montage that is looked at; it takes as long as looking through it. Null: cancelled, or it failed. */
export function countFlashes({ montage, line }: Derived): Promise<FlashCount | null> {
  return jobs
    .run({ kind: 'count', owner: montage.id, label: 'Counting flashes' }, async (job) => {
      job.signal.addEventListener('abort', () => void frameServer().stopMeasuring());
      const progress = proxy((share: number) => job.progress(share));
      return (await frameServer().measure(0, line.count - 1, { plain: false }, progress)).flashes;
    })
    .catch((error: unknown) => {
      say(error);
      return null;
    });
}

/** Measures the whole montage and softens what is over the limit, in one step of undo. */
export async function softenFlashes(): Promise<void> {
  const derived = derivedNow();
  const { montage } = useMontage.getState();
  if (!derived?.line.count || !montage) return notice('There is nothing to measure yet.', 'error');
  if (useView.getState().format !== null) return notice('Look at the montage’s own shape first.', 'error');
  const { line, planner } = derived;
  await jobs
    .run({ kind: 'levels', owner: montage.id, label: 'Looking for flashes' }, async (job) => {
      const server = job.use(startFrameServer());
      job.signal.addEventListener('abort', () => void server.stopMeasuring());
      await server.setMontage(montage, useMedia.getState().listed);
      for (const [source, location] of mediaLocations()) await server.setMedia(source, location);
      const measured = async (from: number, to: number): Promise<FlashCount> =>
        (await server.measure(Math.max(0, from), Math.min(to, line.count - 1), { plain: false })).flashes;
      /** What each softened placement is set to. */
      const set = new Map<Placement, number>();
      const edits = (): Edit =>
        together([...set].map(([placement, intensity]) => changePlacement(placement, { intensity })));
      const before = await measured(0, line.count - 1);
      let now = before;
      for (let round = 0; tooMany(now) && now.at !== null && round < MOST_ROUNDS && !job.signal.aborted; round++) {
        job.progress(null, { label: `Softening flashes at ${timecode(line.frameAt(now.at), line.rate)}` });
        const [from, to] = [line.frameAt(now.at) - 2, line.frameAt(now.at + 1) + 2];
        const here = planner.placements.filter((p) => !p.muted && p.from <= to && p.to >= from);
        const old = new Map(here.map((p) => [p, set.get(p) ?? p.intensity]));
        const calm = async (share: number): Promise<boolean> => {
          // Two digits are what fields show.
          for (const [p, intensity] of old) set.set(p, Math.floor(intensity * share * 100) / 100);
          await server.setMontage(edits()(montage));
          return !tooMany(await measured(from, to));
        };
        if (!here.length || !(await calm(0))) {
          for (const [p, intensity] of old) set.set(p, intensity);
          const at = timecode(line.frameAt(now.at), line.rate);
          notice(`Not the accents on hits flash around ${at}: look at the footage and the beds there.`, 'error');
          break;
        }
        let [low, high] = [0, 1];
        for (let i = 0; i < HALVINGS; i++) {
          const middle = (low + high) / 2;
          if (await calm(middle)) low = middle;
          else high = middle;
        }
        await calm(low);
        now = await measured(0, line.count - 1);
      }
      if (job.signal.aborted) return;
      const softened = [...set].filter(([p, intensity]) => intensity < p.intensity);
      if (!softened.length) {
        if (!tooMany(before))
          notice(`At most ${said(before)} flashes fall within a second: nothing has to be softened.`);
        return;
      }
      if (useMontage.getState().montage !== montage)
        return notice('The montage was changed meanwhile: soften it again.', 'error');
      edit(together(softened.map(([placement, intensity]) => changePlacement(placement, { intensity }))));
      const least = Math.round(100 * Math.min(...softened.map(([, intensity]) => intensity)));
      const many = softened.length === 1 ? 'placement is' : 'placements are';
      const came = `${said(now)} flashes within a second instead of ${said(before)}`;
      notice(
        `${softened.length} ${many} softened, the most to ${least} %: ${came}. Undo takes it back.`,
        tooMany(now) ? 'error' : 'note',
      );
    })
    .catch(say);
}
