/** How each clip's picture lies in the output, frame by frame, and where the focus of a hit is then. */
import { lowerBound } from '../base/search.ts';
import { takenTo, type Similarity } from '../base/similarity.ts';
import type { Hit, Montage, Pin, Point } from '../document/types.ts';
import { focusAt, framingPath, inOutput, keptIn, windowOf, type Framed } from '../timeline/framing.ts';
import type { Occurrence } from '../timeline/occurrences.ts';
import type { ClipSpan, MediaIndex, Timeline } from '../timeline/timeline.ts';
import { pinAt, type Pose } from '../timeline/pins.ts';
import { momentOf } from './layers.ts';

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
  /** How what something is pinned to has gone, turned and grown, in frame heights from the middle; null: it is not to be seen. */
  goneWith(pin: Pin, frame: number): Similarity | null;
}

/** @param shown hits that carry accents, where the montage shows them, by frame */
export function framer(
  montage: Montage,
  line: Timeline,
  media: MediaIndex,
  shown: () => readonly Occurrence[],
): Framer {
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
          const { focus, around } = hit;
          const window = windowOf({ fit: 'fill', centre: point }, shape, aspect);
          const kept =
            focus && around
              ? keptIn(point, { ...around, x: around.x + point.x - focus.x, y: around.y + point.y - focus.y }, window)
              : point;
          const { centre } = windowOf({ fit: 'fill', centre: kept }, shape, aspect);
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
  /** What is shown of a source on an output frame: the frame within its clip, and how its picture lies there. */
  const shownOf = (source: string, frame: number) => {
    const span = line.spanAt(Math.min(line.count - 1, Math.max(0, Math.round(frame))));
    const shape = span && span.clip.source === source ? aspects.get(source) : undefined;
    if (!span || shape === undefined) return null;
    const whole = Math.min(span.end - 1, Math.max(span.first, Math.round(frame)));
    const framed = framedAt(span, whole);
    return { span, whole, place: (point: Point): Point => inOutput(point, framed, shape, aspect) };
  };
  const focusOn = (hit: Hit, frame: number): readonly [number, number] => {
    const seen = shownOf(hit.source, frame);
    const point = seen && focusAt(hit, line.sourceTime(seen.span, line.timeOf(seen.whole)));
    if (!seen || !point) return [0, 0];
    const { x, y } = seen.place(point);
    return [(x - 0.5) * aspect, y - 0.5];
  };
  const goneWith = (pin: Pin, frame: number): Similarity | null => {
    const { source, at } = pin;
    const seen = shownOf(source, frame);
    const times = media.get(source);
    if (!seen || !times) return null;
    const mixed = line.mixedWith(seen.span, seen.whole);
    const picture = { frame: line.sourceFrame(seen.span, seen.whole), ...(mixed && { mixed }) };
    const poseAt = (t: number): Pose => {
      const pose = pinAt(pin, t);
      const { x, y } = seen.place(pose);
      return { ...pose, x: (x - 0.5) * aspect, y: y - 0.5 };
    };
    const [was, is] = [poseAt(at), poseAt(momentOf(picture, times))];
    return takenTo(was, is, is.turn - was.turn, is.scale / was.scale);
  };
  return { framedAt, focusOn, goneWith };
}
