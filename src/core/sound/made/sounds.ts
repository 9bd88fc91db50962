/**
 * Sounds that Akmeon makes itself, for accents. To add one, write it here and put it on the list: the shelf, the schema's
 * check and the tests take it from there. Recipes are common practice, no source.
 */
import {
  backwards,
  decay,
  driven,
  filter,
  glide,
  random,
  rendered,
  rise,
  saw,
  sine,
  tone,
  MADE_RATE,
} from './synthesis.ts';

export interface MadeParam {
  readonly label: string;
  readonly unit: 'Hz' | 's' | '%' | '/s';
  readonly min: number;
  readonly max: number;
  readonly default: number;
}

export interface MadeSound {
  readonly id: string;
  readonly name: string;
  /** What it is used as, for the shelf. */
  readonly family: 'blow' | 'metal' | 'air' | 'rise' | 'glitch';
  readonly doc: string;
  readonly params: Readonly<Record<string, MadeParam>>;
  /** Mono at {@link MADE_RATE}, of any level. @param seed draws its noise */
  make(p: Readonly<Record<string, number>>, seed: number): Float32Array<ArrayBuffer>;
}

const hertz = (label: string, min: number, max: number, byDefault: number): MadeParam => ({
  label,
  unit: 'Hz',
  min,
  max,
  default: byDefault,
});
const time = (label: string, min: number, max: number, byDefault: number): MadeParam => ({
  label,
  unit: 's',
  min,
  max,
  default: byDefault,
});
const percent = (label: string, byDefault: number): MadeParam => ({
  label,
  unit: '%',
  min: 0,
  max: 100,
  default: byDefault,
});
const often = (label: string, min: number, max: number, byDefault: number): MadeParam => ({
  label,
  unit: '/s',
  min,
  max,
  default: byDefault,
});

export const MADE_SOUNDS: readonly MadeSound[] = [
  {
    id: 'boom',
    name: 'Low boom',
    family: 'blow',
    doc: 'A deep blow that rolls off.',
    params: { pitch: hertz('Pitch', 25, 120, 48), length: time('Length', 0.3, 4, 1.6), grit: percent('Grit', 35) },
    make({ pitch, length, grit }, seed) {
      const [low, noise, dark] = [tone(), random(seed), filter('low')];
      return rendered(length!, (t) => {
        const body = low(glide(pitch! * 2.6, pitch!, t / 0.08)) * decay(t, length!, 0.003);
        const rumble = dark(noise(), glide(600, 80, t / length!)) * decay(t, length! * 0.5, 0.002);
        return driven(body + (grit! / 50) * rumble, 1 + grit! / 25);
      });
    },
  },
  {
    id: 'drop',
    name: 'Sub drop',
    family: 'blow',
    doc: 'A tone that falls out of hearing.',
    params: { from: hertz('From', 60, 400, 140), to: hertz('To', 18, 80, 28), length: time('Length', 0.3, 5, 1.8) },
    make({ from, to, length }) {
      const low = tone();
      return rendered(
        length!,
        (t) => low(glide(from!, to!, t / length!)) * decay(t, length! * 1.6, 0.004) * (1 - rise(t, length!, 6)),
      );
    },
  },
  {
    id: 'knock',
    name: 'Body knock',
    family: 'blow',
    doc: 'A short, full blow, as on a body or a door.',
    params: {
      pitch: hertz('Pitch', 60, 400, 130),
      length: time('Length', 0.05, 0.8, 0.22),
      hard: percent('Hardness', 50),
    },
    make({ pitch, length, hard }, seed) {
      const [body, noise, bright] = [tone(), random(seed), filter('band', 0.8)];
      return rendered(length!, (t) => {
        const knock = body(glide(pitch! * 1.8, pitch!, t / 0.03)) * decay(t, length!, 0.0015);
        return knock + (hard! / 60) * bright(noise(), 1800) * decay(t, 0.05, 0.0005);
      });
    },
  },
  {
    id: 'snap',
    name: 'Snap',
    family: 'blow',
    doc: 'A dry crack without a body.',
    params: { bright: hertz('Brightness', 800, 8000, 3200), length: time('Length', 0.02, 0.4, 0.09) },
    make({ bright, length }, seed) {
      const [noise, band] = [random(seed), filter('band', 0.7)];
      return rendered(length!, (t) => band(noise(), bright!) * decay(t, length!, 0.0004));
    },
  },
  {
    id: 'ring',
    name: 'Metal ring',
    family: 'metal',
    doc: 'Struck metal: partials that do not belong together.',
    params: {
      pitch: hertz('Pitch', 150, 2000, 520),
      length: time('Length', 0.2, 5, 1.8),
      spread: percent('Roughness', 50),
    },
    make({ pitch, length, spread }, seed) {
      const next = random(seed);
      const partials = [1, 2.76, 5.4, 8.93, 11.34].map((ratio, i) => ({
        hertz: pitch! * ratio * (1 + (next() * spread!) / 2500),
        fades: length! / (1 + 0.6 * i),
        level: 1 / (1 + 0.7 * i),
      }));
      return rendered(length!, (t) =>
        partials.reduce(
          (sum, one) => sum + one.level * Math.sin(2 * Math.PI * one.hertz * t) * decay(t, one.fades, 0.001),
          0,
        ),
      );
    },
  },
  {
    id: 'whoosh-in',
    name: 'Whoosh in',
    family: 'air',
    doc: 'Air that rushes up to a moment and stops there.',
    params: { length: time('Length', 0.1, 3, 0.6), bright: hertz('Brightness', 400, 9000, 3000) },
    make({ length, bright }, seed) {
      const [noise, band] = [random(seed), filter('band', 1.1)];
      const tail = 0.05;
      return rendered(
        length! + tail,
        (t) =>
          band(noise(), glide(bright! / 8, bright!, t / length!)) *
          (t < length! ? rise(t, length!, 2.5) : decay(t - length!, tail)),
      );
    },
  },
  {
    id: 'whoosh-by',
    name: 'Whoosh by',
    family: 'air',
    doc: 'Something that passes: up and away.',
    params: { length: time('Length', 0.15, 3, 0.7), bright: hertz('Brightness', 400, 9000, 2400) },
    make({ length, bright }, seed) {
      const [noise, band] = [random(seed), filter('band', 1.3)];
      return rendered(length!, (t) => {
        const x = t / length!;
        const near = Math.exp(-(((x - 0.45) / 0.16) ** 2));
        return band(noise(), bright! * (0.35 + 0.9 * near) * (x > 0.45 ? 0.8 : 1)) * near;
      });
    },
  },
  {
    id: 'riser',
    name: 'Riser',
    family: 'rise',
    doc: 'Climbs until its end.',
    params: {
      length: time('Length', 0.5, 8, 2),
      from: hertz('From', 60, 800, 180),
      to: hertz('To', 400, 6000, 1800),
      air: percent('Air', 50),
    },
    make({ length, from, to, air }, seed) {
      const [one, other, noise, band] = [tone(saw), tone(saw), random(seed), filter('band', 1.2)];
      const dark = filter('low');
      return rendered(length!, (t) => {
        const pitch = glide(from!, to!, (t / length!) ** 1.4);
        const tones = dark(one(pitch) + other(pitch * 1.008), pitch * 3);
        return (
          (tones * (1 - air! / 140) + band(noise(), pitch * 2) * (air! / 40)) *
          rise(t, length!, 1.8) *
          Math.min(1, (length! - t) / 0.004)
        );
      });
    },
  },
  {
    id: 'swell',
    name: 'Reverse swell',
    family: 'rise',
    doc: 'A struck plate played backwards: it ends where it was struck.',
    params: { length: time('Length', 0.3, 5, 1.4), bright: hertz('Brightness', 1000, 12000, 6000) },
    make({ length, bright }, seed) {
      const [noise, dark, thin] = [random(seed), filter('low'), filter('high')];
      return backwards(
        rendered(
          length!,
          (t) => thin(dark(noise(), glide(bright!, bright! / 6, t / length!)), 300) * decay(t, length! * 1.1, 0.002),
        ),
      );
    },
  },
  {
    id: 'burst',
    name: 'Glitch burst',
    family: 'glitch',
    doc: 'Noise and tones held and broken, as of a fault.',
    params: {
      length: time('Length', 0.05, 1.5, 0.25),
      rate: often('Breaks', 8, 120, 45),
      bright: percent('Brightness', 60),
    },
    make({ length, rate, bright }, seed) {
      const next = random(seed);
      let [held, left, kind, level, phase] = [0, 0, 0, 0, 0];
      return rendered(length!, (t) => {
        if (left-- <= 0) {
          left = Math.round((MADE_RATE / rate!) * (0.4 + Math.abs(next()) * 1.2));
          kind = Math.abs(next());
          level = next() > -0.6 ? 0.5 + Math.abs(next()) / 2 : 0;
          held = 80 * (1 + Math.abs(next()) * bright!);
        }
        phase = (phase + held / MADE_RATE) % 1;
        const value = kind < 0.4 ? next() : kind < 0.75 ? (phase < 0.5 ? 1 : -1) : Math.round(saw(phase) * 3) / 3;
        return value * level * decay(t, length! * 2.5, 0.0005);
      });
    },
  },
  {
    id: 'stutter',
    name: 'Stutter grain',
    family: 'glitch',
    doc: 'One grain again and again, fading.',
    params: {
      pitch: hertz('Pitch', 80, 2000, 420),
      rate: often('Grains', 6, 60, 20),
      length: time('Length', 0.1, 2, 0.5),
    },
    make({ pitch, rate, length }, seed) {
      const noise = random(seed);
      const grain = rendered(
        1 / rate!,
        (t) => (0.7 * sine(pitch! * t) + 0.4 * noise()) * decay(t, 0.7 / rate!, 0.0008),
      );
      return rendered(length!, (t, i) => grain[i % grain.length]! * decay(t, length! * 1.5, 0.0005));
    },
  },
  {
    id: 'stop',
    name: 'Tape stop',
    family: 'glitch',
    doc: 'A chord that slows until it stands.',
    params: { pitch: hertz('Pitch', 80, 800, 260), length: time('Length', 0.2, 3, 0.8) },
    make({ pitch, length }) {
      const voices = [1, 1.26, 1.5, 2].map((ratio) => ({ ratio, next: tone(saw) }));
      const dark = filter('low');
      return rendered(length!, (t) => {
        const speed = (1 - t / length!) ** 1.5;
        const sum = voices.reduce((all, { ratio, next }) => all + next(pitch! * ratio * speed), 0);
        return (
          dark(sum, 200 + 5000 * speed) *
          (0.3 + 0.7 * speed) *
          Math.min(1, t / 0.003) *
          Math.min(1, (length! - t) / 0.05)
        );
      });
    },
  },
  {
    id: 'crackle',
    name: 'Radio crackle',
    family: 'glitch',
    doc: 'A bad line: clicks and hiss in a narrow band.',
    params: { length: time('Length', 0.1, 3, 0.6), rate: often('Clicks', 5, 200, 60), hiss: percent('Hiss', 30) },
    make({ length, rate, hiss }, seed) {
      const [next, band] = [random(seed), filter('band', 0.9)];
      const chance = rate! / MADE_RATE;
      // It begins with one: however few there are, something is heard.
      let click = 3;
      return rendered(length!, (t) => {
        if (Math.abs(next()) < chance) click = 4 * next();
        click *= 0.82;
        return band(click + (hiss! / 160) * next(), 1700) * Math.min(1, t / 0.004) * Math.min(1, (length! - t) / 0.02);
      });
    },
  },
  {
    id: 'shutter',
    name: 'Shutter click',
    family: 'metal',
    doc: 'Two leaves that open and close.',
    params: { gap: time('Gap', 0.01, 0.2, 0.045), bright: hertz('Brightness', 800, 7000, 3400) },
    make({ gap, bright }, seed) {
      const [noise, band] = [random(seed), filter('band', 1.4)];
      return rendered(gap! + 0.09, (t) => {
        const open = decay(t, 0.035, 0.0004);
        const close = 0.8 * decay(t - gap!, 0.06, 0.0004);
        return band(noise(), bright! * (t < gap! ? 1 : 0.7)) * (open + close);
      });
    },
  },
  {
    id: 'blast',
    name: 'Air blast',
    family: 'air',
    doc: 'Compressed air let go.',
    params: { length: time('Length', 0.1, 3, 0.7), bright: hertz('Brightness', 1000, 12000, 5000) },
    make({ length, bright }, seed) {
      const [noise, thin, dark] = [random(seed), filter('high'), filter('low')];
      return rendered(
        length!,
        (t) => dark(thin(noise(), 500), glide(bright!, bright! / 4, t / length!)) * decay(t, length!, 0.006),
      );
    },
  },
  {
    id: 'heart',
    name: 'Heartbeat',
    family: 'blow',
    doc: 'Two dull beats.',
    params: { pitch: hertz('Pitch', 30, 90, 52), gap: time('Gap', 0.12, 0.5, 0.28) },
    make({ pitch, gap }) {
      const low = tone();
      return rendered(gap! + 0.35, (t) => {
        const [first, second] = [decay(t, 0.22, 0.006), 0.75 * decay(t - gap!, 0.26, 0.006)];
        return low(pitch! * (1 + 0.5 * Math.max(first, second))) * (first + second);
      });
    },
  },
];
