/** Finding the people of a clip: mattes like those that are brushed, which strokes then mend. */
import { LIMITS } from '../../core/document/limits.ts';
import type { Source } from '../../core/document/types.ts';
import { SAME, withMattes, type KeptMatte } from '../../core/subject/pieces.ts';
import { asStored, workingSize } from '../../core/subject/working.ts';
import { openPeopleFinder } from '../../engine/index.ts';
import { derivedNow } from './derived.ts';
import { jobs, say } from './jobs.ts';
import { frameServer } from './media.ts';
import { editMontage } from './montage.ts';
import { changed, subjectShown } from './subject.ts';
import { notice, useView } from './view.ts';

/** Less than this share of the picture is nobody. */
const SOMEBODY = 0.002;

/** Finds people on every frame of the clip at the playhead; what was found before it is stopped is kept. */
export async function findPeople(source: Source): Promise<void> {
  const derived = derivedNow();
  const shown = subjectShown(source);
  const span = derived?.line.spanAt(useView.getState().playhead);
  const times = derived?.media.get(source.id);
  const { video } = source;
  if (!shown || !span || !times || !video) return;
  const owner = derived!.montage.id;
  const { width, height } = workingSize(video.width, video.height);
  const lies = video.rotation === 90 || video.rotation === 270;
  const stored = lies ? { width: height, height: width } : { width, height };
  const first = source.still ? 0 : Math.max(0, times.indexAt(span.clip.in + SAME));
  const last = source.still ? 0 : Math.min(times.count - 1, times.indexAt(span.clip.out - SAME));
  await jobs
    .run({ kind: 'focus', owner, label: `Finding people in ${source.name}` }, async (job) => {
      const finder = await openPeopleFinder();
      const found: KeptMatte[] = [];
      let most = 0;
      try {
        for (let frame = first; frame <= last && !job.signal.aborted; frame++) {
          const picture = await frameServer().picture({ source: source.id, frame, fit: 'fill' }, width, height);
          const values = await finder.find(picture);
          most = Math.max(most, values.reduce((sum, value) => sum + value, 0) / (255 * values.length));
          found.push({ t: times.timeOf(frame), values: asStored(values, width, height, video.rotation) });
          job.progress((frame - first + 1) / (last - first + 1));
        }
      } finally {
        finder.close();
      }
      if (most < SOMEBODY) {
        if (!job.signal.aborted)
          notice('Nobody was found in this clip: brush over what belongs to the subject instead.', 'error');
        return;
      }
      await editMontage(
        owner,
        changed(source.id, (subject) => ({
          ...subject,
          brushed: {
            strokes: subject.brushed?.strokes ?? [],
            // What was mended by hand stays.
            pieces: withMattes(
              subject.brushed?.pieces ?? [],
              found.filter(({ t }) => !subject.brushed?.strokes.some((stroke) => Math.abs(stroke.t - t) < SAME)),
              stored,
            ).slice(0, LIMITS.pieces),
            people: true,
          },
        })),
      );
      notice(
        `People were found on ${found.length === 1 ? 'one frame' : `${found.length} frames`}. ` +
          'Strokes mend what is wrong, “Carry on” what comes after.',
      );
    })
    .catch(say);
}
