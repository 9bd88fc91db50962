/** Frames made by movement against the true ones of the practice videos: every second frame is left out and made again. */
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, it } from 'vitest';
import type { Luma } from '../src/core/motion/field.ts';
import { madeFrame, mixedFrame, motionBetween, SHOT, type Planes } from '../src/core/motion/made.ts';

const at = (path: string): string => fileURLToPath(new URL(`../${path}`, import.meta.url));
const PRACTICE = at('../shared/practice');
const FFMPEG = spawnSync('ffmpeg', ['-version']).status === 0;
const [WIDTH, HEIGHT, EVERY, PAIRS] = [640, 360, 8, 18];
const AREA = WIDTH * HEIGHT;

const luma = ({ data }: Planes): Luma => ({ width: WIDTH, height: HEIGHT, data: data.subarray(0, AREA) });
const psnr = (a: Planes, b: Planes): number => {
  let sum = 0;
  for (let i = 0; i < AREA; i++) sum += (a.data[i]! - b.data[i]!) ** 2;
  return 10 * Math.log10(255 ** 2 / Math.max(1e-3, sum / AREA));
};

it
  .skipIf(!FFMPEG || !existsSync(PRACTICE))
  .each(['video-cuts.mp4', 'video-flashes.mp4', 'video-popup.mp4', 'video-jolts-vp9.webm'])(
  'made frames of %s are 6 decibels nearer to the true ones than mixed ones are',
  (file) => {
    const raw = execFileSync(
      'ffmpeg',
      [
        '-v',
        'error',
        '-i',
        `${PRACTICE}/${file}`,
        '-frames:v',
        String(EVERY * PAIRS),
        '-f',
        'rawvideo',
        '-pix_fmt',
        'yuv420p',
        '-',
      ],
      { maxBuffer: 1 << 30 },
    );
    const size = AREA * 1.5;
    const frame = (i: number): Planes => ({
      width: WIDTH,
      height: HEIGHT,
      data: new Uint8Array(raw.subarray(i * size, (i + 1) * size)),
    });
    const gains: number[] = [];
    for (let i = 4; i + 3 < raw.length / size; i += EVERY) {
      const [before, one, truth, other, after] = [i - 3, i - 1, i, i + 1, i + 3].map(frame) as [
        Planes,
        Planes,
        Planes,
        Planes,
        Planes,
      ];
      const motion = motionBetween(luma(one), luma(other), { before: luma(before), after: luma(after) });
      // None of them cuts here.
      expect(motion.agreed).toBeGreaterThan(SHOT);
      gains.push(psnr(madeFrame(one, other, motion, 0.5), truth) - psnr(mixedFrame(one, other, 0.5), truth));
    }
    expect(gains.length).toBe(PAIRS);
    expect(gains.reduce((sum, gain) => sum + gain, 0) / gains.length).toBeGreaterThan(6);
  },
);
