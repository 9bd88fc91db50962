/** One small true frame of the montage, drawn by the same renderer as all else. */
import { useEffect, useRef } from 'react';
import type { Audition } from '../../core/accents/plan.ts';
import { timesVersion } from '../../core/timeline/frame-times.ts';
import { keepPicture, keptPicture, type ShowOptions } from '../../engine/index.ts';
import { derivedNow } from '../stores/derived.ts';
import { frameServer, useMedia } from '../stores/media.ts';
import { useMontage } from '../stores/montage.ts';

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

/** The key under which a plain source frame is kept between visits. */
function storedKey(frame: number): string | null {
  const derived = derivedNow();
  const picture = derived?.planner.at(frame, { plain: true }).picture;
  const source = derived?.montage.sources.find((s) => s.id === picture?.source);
  const times = source && derived?.media.get(source.id);
  if (!picture || !times) return null;
  const { width, height } = derived.montage.settings;
  return [source.fingerprint, timesVersion(times), picture.frame, picture.fit, `${width}x${height}`].join(':');
}

async function fetchPicture(
  frame: number,
  options: ShowOptions,
  key: string,
  wanted: () => boolean,
): Promise<ImageBitmap | null> {
  const there = kept.get(key);
  if (there) return there;
  const job = queue.then(async () => {
    if (!wanted()) return null;
    const again = kept.get(key);
    if (again) return again;
    const plainKey = options.plain ? storedKey(frame) : null;
    if (plainKey) {
      const blob = await keptPicture(plainKey).catch(() => null);
      if (blob) return createImageBitmap(blob);
    }
    const bitmap = await frameServer().bitmap(frame, options);
    if (plainKey) {
      const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
      canvas.getContext('2d')!.drawImage(bitmap, 0, 0);
      void canvas
        .convertToBlob({ type: 'image/webp', quality: 0.8 })
        .then((blob) => keepPicture(plainKey, blob))
        .catch(() => undefined);
    }
    return bitmap;
  });
  queue = job.catch(() => undefined);
  const bitmap = await job;
  if (bitmap) remember(key, bitmap);
  return bitmap;
}

interface Props {
  frame: number;
  width: number;
  height: number;
  plain: boolean;
  audition?: Audition | undefined;
  label: string;
}

export function FramePicture({ frame, width, height, plain, audition, label }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const epoch = useMedia((s) => s.epoch);
  const montage = useMontage((s) => s.montage);
  // A plain picture hangs on clips and sources alone, so that shaping does not draw it anew.
  const basis = montage
    ? plain
      ? `${idOf(montage.clips)}/${idOf(montage.sources)}`
      : String(idOf(audition ?? montage))
    : '';
  useEffect(() => {
    let alive = true;
    const pen = canvas.current!.getContext('2d')!;
    fetchPicture(frame, { plain, width, height, audition }, `${frame}@${width}x${height}/${basis}`, () => alive).then(
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
  }, [frame, width, height, plain, basis, audition, epoch]);
  return (
    <canvas
      ref={canvas}
      width={width}
      height={height}
      className="block w-full bg-black"
      role="img"
      aria-label={label}
      data-frame={frame}
    />
  );
}
