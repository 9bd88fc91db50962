/** How each clip's picture lies in the output, frame by frame, and where the focus of a hit is then. */
import { lowerBound } from '../base/search.ts';
import type { Hit, Montage, Point } from '../document/types.ts';
import { focusAt, framingPath, inOutput, windowOf, type Framed } from '../timeline/framing.ts';
import type { Occurrence } from '../timeline/occurrences.ts';
import type { ClipSpan, Timeline } from '../timeline/timeline.ts';

/** Those that lie in a clip. */
const inSpan = (shown: readonly Occurrence[], { first, end }: ClipSpan): readonly Occurrence[] =>
  shown.slice(
    lowerBound(shown, first, ({ frame }) => frame),
    lowerBound(shown, end, ({ frame }) => frame),
  );

export interface Framer {
  framedAt(span: ClipSpan, frame: number): Framed;
  /** Frame heights from the middle; the middle where the hit is not to be seen. */
  focusOn(hit: Hit, frame: number): readonly [number, number];
}

/** @param shown hits that carry accents, where the montage shows them, by frame */
export function framer(montage: Montage, line: Timeline, shown: () => readonly Occurrence[]): Framer {
  const aspect = montage.settings.width / montage.settings.height;
  const aspects = new Map(
    montage.sources.flatMap(({ id, video }) => (video ? [[id, video.width / video.height]] : [])),
  );

  /** What stands in the middle of each clip that is cut around its focus, made when it is first asked for. */
  const paths = new Map<ClipSpan, (seconds: number) => Point>();
  const pathOf = (span: ClipSpan, shape: number): ((seconds: number) => Point) => {
    let path = paths.get(span);
    if (!path) {
      const keys = inSpan(shown(), span).flatMap(({ hit, frame }) => {
        const at = hit.source === span.clip.source ? line.sourceTime(span, line.timeOf(frame)) : NaN;
        const moments = hit.track?.length ? hit.track.map(({ t }) => t) : [at];
        return moments.flatMap((t) => {
          const point = focusAt(hit, t);
          if (!point || !(t >= span.clip.in && t < span.clip.out)) return [];
          // The way is sought among what can be shown, so that it is smooth beside the picture's edges, too.
          const { centre } = windowOf({ fit: 'fill', centre: point }, shape, aspect);
          return line.momentsOf(span, t).map((seconds) => ({ ...centre, at: seconds }));
        });
      });
      paths.set(span, (path = framingPath(keys, montage.settings.framingSpeed)));
    }
    return path;
  };
  /** How the picture of a clip lies in the output at a frame. */
  const framedAt = (span: ClipSpan, frame: number): Framed => {
    const { fit, source } = span.clip;
    const shape = aspects.get(source);
    return fit === 'focus' && shape !== undefined ? { fit, centre: pathOf(span, shape)(line.timeOf(frame)) } : { fit };
  };
  /** Where a hit's focus is on an output frame, frame heights from the middle. */
  const focusOn = (hit: Hit, frame: number): readonly [number, number] => {
    const span = line.spanAt(Math.min(line.count - 1, Math.max(0, Math.round(frame))));
    const shape = span && span.clip.source === hit.source ? aspects.get(hit.source) : undefined;
    if (!span || shape === undefined) return [0, 0];
    const whole = Math.min(span.end - 1, Math.max(span.first, Math.round(frame)));
    const point = focusAt(hit, line.sourceTime(span, line.timeOf(whole)));
    if (!point) return [0, 0];
    const { x, y } = inOutput(point, framedAt(span, whole), shape, aspect);
    return [(x - 0.5) * aspect, y - 0.5];
  };
  return { framedAt, focusOn };
}
