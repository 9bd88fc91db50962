/** One small true frame of the montage or of a source, drawn by the same renderer as all else. */
import { useEffect, useMemo, useRef } from 'react';
import type { Audition, PlannedPicture } from '../../core/accents/plan.ts';
import { timesVersion } from '../../core/timeline/frame-times.ts';
import { keepPicture, keptPicture } from '../../engine/index.ts';
import { useDerived, type Derived } from '../stores/derived.ts';
import { frameServer, useMedia } from '../stores/media.ts';

const MOST_KEPT = 400;
/** Drawn pictures by what they show; the least recently used fall out. */
const kept = new Map<string, ImageBitmap>();
let queue: Promise<unknown> = Promise.resolve();

const auditionIds = new WeakMap<object, number>();
let auditions = 0;
const idOf = (thing: object): number => {
  let id = auditionIds.get(thing);
  if (!id) auditionIds.set(thing, (id = ++auditions));
  return id;
};

function remember(key: string, bitmap: ImageBitmap): void {
  kept.delete(key);
  kept.set(key, bitmap);
  for (const [old, picture] of kept) {
    if (kept.size <= MOST_KEPT) break;
    kept.delete(old);
    picture.close();
  }
}

/** The key under which a source frame is kept between visits. */
function storedKey(derived: Derived, picture: PlannedPicture): string | null {
  const source = derived.montage.sources.find((s) => s.id === picture.source);
  const times = source && derived.media.get(source.id);
  if (!times) return null;
  const { width, height } = derived.montage.settings;
  const framed = [picture.fit, ...(picture.centre ? [picture.centre.x.toFixed(3), picture.centre.y.toFixed(3)] : [])];
  return [source.fingerprint, timesVersion(times), picture.frame, ...framed, `${width}x${height}`].join(':');
}

/** A picture that is kept between visits, or drawn and kept then. */
async function storedOr(key: string | null, draw: () => Promise<ImageBitmap>): Promise<ImageBitmap> {
  const blob = key && (await keptPicture(key).catch(() => null));
  if (blob) return createImageBitmap(blob);
  const bitmap = await draw();
  if (key) {
    const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
    canvas.getContext('2d')!.drawImage(bitmap, 0, 0);
    void canvas
      .convertToBlob({ type: 'image/webp', quality: 0.8 })
      .then((kept) => keepPicture(key, kept))
      .catch(() => undefined);
  }
  return bitmap;
}

/** From memory, else one after another by `draw`, as long as it is still wanted. */
async function fetchPicture(
  key: string,
  draw: () => Promise<ImageBitmap>,
  wanted: () => boolean,
): Promise<ImageBitmap | null> {
  const there = kept.get(key);
  if (there) return there;
  const job = queue.then(async () => (wanted() ? (kept.get(key) ?? draw()) : null));
  queue = job.catch(() => undefined);
  const bitmap = await job;
  if (bitmap) remember(key, bitmap);
  return bitmap;
}

interface Drawn {
  readonly width: number;
  readonly height: number;
  readonly label: string;
  /** What is shown: another key is another picture. */
  readonly basis: string;
  /** The montage's frame, for those who ask. */
  readonly frame?: number;
  draw(): Promise<ImageBitmap>;
}

function DrawnPicture({ width, height, label, basis, frame, draw }: Drawn) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const epoch = useMedia((s) => s.epoch);
  useEffect(() => {
    let alive = true;
    const pen = canvas.current!.getContext('2d')!;
    fetchPicture(`${basis}@${width}x${height}`, draw, () => alive).then(
      (bitmap) => {
        if (alive && bitmap) pen.drawImage(bitmap, 0, 0, width, height);
      },
      () => {
        if (alive) pen.clearRect(0, 0, width, height);
      },
    );
    return () => {
      alive = false;
    };
    // What is drawn stands in its basis.
  }, [basis, width, height, epoch]);
  return (
    <canvas
      ref={canvas}
      width={width}
      height={height}
      className="block max-h-full w-full bg-black object-contain"
      role="img"
      aria-label={label}
      data-frame={frame}
    />
  );
}

interface Props {
  readonly frame: number;
  readonly width: number;
  readonly height: number;
  /** Without accents. It hangs on the source's frame alone: neither shaping nor trimming draws it anew. */
  readonly plain: boolean;
  readonly audition?: Audition | undefined;
  readonly label: string;
}

export function FramePicture({ frame, width, height, plain, audition, label }: Props) {
  const derived = useDerived();
  const picture = useMemo(
    () => (plain ? (derived?.planner.at(frame, { plain: true }).picture ?? null) : null),
    [plain, derived, frame],
  );
  if (picture) return <SourcePicture {...{ picture, width, height, label, frame }} />;
  const montage = derived?.montage;
  const basis = montage ? `${frame}/${plain}/${idOf(audition ?? montage)}` : '';
  const draw = (): Promise<ImageBitmap> => frameServer().bitmap(frame, { plain, width, height, audition });
  return <DrawnPicture {...{ width, height, label, basis, frame, draw }} />;
}

interface SourceProps extends Pick<Props, 'width' | 'height' | 'label'> {
  readonly picture: PlannedPicture;
  readonly frame?: number;
}

/** A source's frame, whether or not the montage shows it. */
export function SourcePicture({ picture, ...rest }: SourceProps) {
  const derived = useDerived();
  const plain = derived && storedKey(derived, picture);
  // A square card and a wide strip show the same frame otherwise.
  const key = plain && `${plain}:${(rest.width / rest.height).toFixed(1)}`;
  const draw = (): Promise<ImageBitmap> => storedOr(key, () => frameServer().picture(picture, rest.width, rest.height));
  return <DrawnPicture {...rest} basis={key ?? JSON.stringify(picture)} draw={draw} />;
}
