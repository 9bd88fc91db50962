/** How near brushed mattes come to known ones: strokes as a hand would draw them, made from the truth. */
import { MatteCarrier, SURE } from '../../src/core/subject/carry.ts';
import { grown } from '../../src/core/subject/grow.ts';
import { enlarged, type Frame } from '../../src/core/subject/matte.ts';
import { toBytes } from '../../src/core/subject/pieces.ts';
import { overlap, signedDistance, workingOf, type Working } from '../../src/core/subject/working.ts';
import { SCENE_FRAMES, SCENES, sceneFrame, type SceneName } from '../../src/core/testkit/scenes.ts';

/** Truth at the working size, and up again. */
const small = (truth: Float32Array): Float32Array => {
  const out = new Float32Array(320 * 180);
  for (let y = 0; y < 180; y++)
    for (let x = 0; x < 320; x++)
      out[y * 320 + x] =
        (truth[2 * y * 640 + 2 * x]! +
          truth[2 * y * 640 + 2 * x + 1]! +
          truth[(2 * y + 1) * 640 + 2 * x]! +
          truth[(2 * y + 1) * 640 + 2 * x + 1]!) /
        4;
  return out;
};
/** Strokes along the middle of the subject and round about it. */
function strokes(truth: Float32Array): Int8Array {
  const seeds = new Int8Array(320 * 180);
  const d = signedDistance(truth, 320, 180);
  for (let y = 1; y < 179; y++)
    for (let x = 1; x < 319; x++) {
      const i = y * 320 + x;
      const ridge = (d[i]! >= d[i - 1]! && d[i]! > d[i + 1]!) || (d[i]! >= d[i - 320]! && d[i]! > d[i + 320]!);
      if (d[i]! > 3 && ridge) seeds[i] = 1;
      if (d[i]! < -12 && d[i]! > -15) seeds[i] = -1;
    }
  return seeds;
}
/** Strokes over the largest faults of a matte. */
function mends(mask: Float32Array, truth: Float32Array): Int8Array {
  const seeds = new Int8Array(320 * 180);
  for (const side of [1, -1] as const) {
    const wrong = truth.map((t, i) => ((side > 0 ? t >= 0.5 && mask[i]! < 0.5 : t < 0.5 && mask[i]! >= 0.5) ? 1 : 0));
    const d = signedDistance(wrong, 320, 180);
    let most = 0;
    for (const v of d) most = Math.max(most, v);
    if (most < 2) continue;
    for (let i = 0; i < d.length; i++) if (d[i]! > Math.max(1.5, most * 0.35)) seeds[i] = side;
  }
  return seeds;
}

const names = (process.argv.slice(2).filter((a) => a in SCENES) as SceneName[]).length
  ? (process.argv.slice(2).filter((a) => a in SCENES) as SceneName[])
  : (Object.keys(SCENES) as SceneName[]);
const verbose = process.argv.includes('-v');
for (const name of names) {
  const whole: Frame[] = [];
  const frames: Working[] = [];
  const truths: Float32Array[] = [];
  const smalls: Float32Array[] = [];
  for (let f = 0; f < SCENE_FRAMES; f++) {
    const { frame, truth } = sceneFrame(name, f);
    whole.push(frame);
    frames.push(workingOf(frame));
    truths.push(truth);
    smalls.push(small(truth));
  }
  const iou = (mask: Float32Array, f: number): number =>
    overlap(enlarged({ width: 320, height: 180, values: toBytes(mask) }, whole[f]!), truths[f]!);
  const others = (f: number): Working[] => [f - 6, f + 6].flatMap((k) => frames[k] ?? []);
  const began = performance.now();
  const first = grown(frames[0]!, strokes(smalls[0]!), null, others(0));
  const firstTime = performance.now() - began;
  const masks: Float32Array[] = [first];
  const sures: number[] = [1];
  const carry = (from: number, mask: Float32Array, to: number): { masks: Float32Array[]; sures: number[] } => {
    const carrier = new MatteCarrier(frames[from]!, mask);
    const out: Float32Array[] = [];
    const sures: number[] = [];
    const step = to > from ? 1 : -1;
    for (let f = from + step; f !== to + step; f += step) {
      const next = carrier.next(frames[f]!);
      out.push(next?.mask ?? new Float32Array(320 * 180));
      sures.push(next?.sure ?? 0);
    }
    return { masks: out, sures };
  };
  const t0 = performance.now();
  const all = carry(0, first, SCENE_FRAMES - 1);
  const each = (performance.now() - t0) / (SCENE_FRAMES - 1);
  masks.push(...all.masks);
  sures.push(...all.sures);
  const say = (list: readonly Float32Array[]): string => {
    const values = list.map((mask, f) => iou(mask, f));
    return `${(values.reduce((a, b) => a + b, 0) / values.length).toFixed(3)} / ${Math.min(...values).toFixed(3)}`;
  };
  // Mends on the worst frames.
  const keys = new Map<number, Float32Array>([[0, first]]);
  let now = masks;
  const astray = masks.findIndex((mask, f) => iou(mask, f) < 0.7);
  const asks = sures.findIndex((_, f) => f > 2 && [0, 1, 2, 3].every((n) => (sures[f + n] ?? 0) < SURE));
  const said = [say(now)];
  const between = (a: number, b: number): void => {
    const fore = carry(a, keys.get(a)!, b).masks;
    const backwards = keys.has(b) ? carry(b, keys.get(b)!, a).masks : null;
    for (let f = a + 1; f < b; f++) {
      const share = (f - a) / (b - a);
      now[f] = backwards
        ? fore[f - a - 1]!.map((v, i) => v * (1 - share) + backwards[b - f - 1]![i]! * share)
        : fore[f - a - 1]!;
    }
    if (!keys.has(b)) now[b] = fore.at(-1)!;
  };
  const solve = (): void => {
    now = now.slice();
    const at = [...keys.keys()].sort((a, b) => a - b);
    at.forEach((a, n) => {
      now[a] = keys.get(a)!;
      const b = at[n + 1] ?? SCENE_FRAMES - 1;
      if (b > a) between(a, b);
    });
  };
  for (let mend = 0; mend < 2; mend++) {
    const values = now.map((mask, f) => iou(mask, f));
    const worst = values.indexOf(Math.min(...values));
    keys.set(worst, grown(frames[worst]!, mends(now[worst]!, smalls[worst]!), now[worst]!, others(worst)));
    solve();
    said.push(say(now));
  }
  keys.clear();
  let stroked = 1;
  for (let f = 0; f < SCENE_FRAMES; f += 15) {
    keys.set(f, grown(frames[f]!, strokes(smalls[f]!), null, others(f)));
    stroked = Math.min(stroked, iou(keys.get(f)!, f));
  }
  solve();
  console.log(
    `${name.padEnd(8)} first ${iou(first, 0).toFixed(3)} (${firstTime.toFixed(0)} ms) carried, 1, 2 mends: ${said.join('  ')}  every 15: ${say(now)} (stroked worst ${stroked.toFixed(3)}); asks at ${asks}, under 0.7 at ${astray}; ${each.toFixed(0)} ms a frame`,
  );
  if (verbose) console.log(masks.map((m, f) => `${f}:${iou(m, f).toFixed(2)}/${sures[f]!.toFixed(2)}`).join(' '));
}
