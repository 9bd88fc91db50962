/** Rational frame rates, frame/second conversion and timecode. */

/** Frames a second as an exact fraction, e.g. 30000/1001. */
export interface Rate {
  readonly num: number;
  readonly den: number;
}

/** The rates the trade uses; also the menu and the targets of {@link nearestRate}. */
export const STANDARD_RATES: readonly Rate[] = [
  { num: 10, den: 1 },
  { num: 12, den: 1 },
  { num: 15, den: 1 },
  { num: 20, den: 1 },
  { num: 24000, den: 1001 },
  { num: 24, den: 1 },
  { num: 25, den: 1 },
  { num: 30000, den: 1001 },
  { num: 30, den: 1 },
  { num: 48, den: 1 },
  { num: 50, den: 1 },
  { num: 60000, den: 1001 },
  { num: 60, den: 1 },
  { num: 90, den: 1 },
  { num: 100, den: 1 },
  { num: 120000, den: 1001 },
  { num: 120, den: 1 },
  { num: 144, den: 1 },
  { num: 240, den: 1 },
];

/** Slack for float noise when a time is turned into a frame: a millionth of a second. */
const EPSILON = 1e-6;

/** Frames a second that any clock here runs at, both inclusive. */
export const FPS = { min: 0.1, max: 1000 } as const;

export const fps = (rate: Rate): number => rate.num / rate.den;

export const sameRate = (a: Rate, b: Rate): boolean => a.num * b.den === b.num * a.den;

/** Start of `frame` in seconds. Exact to double precision: no error accumulates over hours. */
export const frameToSeconds = (frame: number, rate: Rate): number => (frame * rate.den) / rate.num;

/** The frame on screen at `seconds` (start inclusive, end exclusive). */
export const secondsToFrame = (seconds: number, rate: Rate): number =>
  Math.floor(((seconds + EPSILON) * rate.num) / rate.den);

/** First frame that starts at or after `seconds`. */
export const secondsToFrameCeil = (seconds: number, rate: Rate): number =>
  // Adding 0 makes -0 a plain 0.
  Math.ceil(((seconds - EPSILON) * rate.num) / rate.den) + 0;

/**
 * The standard rate within 0.02 % of `measured` frames a second (29.97 is 0.1 % from 30), else
 * the measured value in thousandths, within {@link FPS}. Falls back to 30 for anything that is not a positive number.
 */
export function nearestRate(measured: number): Rate {
  if (!(measured > 0) || !Number.isFinite(measured)) return { num: 30, den: 1 };
  if (measured > FPS.max || measured < FPS.min) return nearestRate(Math.min(FPS.max, Math.max(FPS.min, measured)));
  let best = STANDARD_RATES[0]!;
  for (const rate of STANDARD_RATES) {
    if (Math.abs(fps(rate) - measured) < Math.abs(fps(best) - measured)) best = rate;
  }
  if (Math.abs(fps(best) / measured - 1) < 2e-4) return best;
  const whole = Math.round(measured);
  if (whole > 0 && Math.abs(whole / measured - 1) < 2e-4) return { num: whole, den: 1 };
  return { num: Math.max(1, Math.round(measured * 1000)), den: 1000 };
}

/** "59.94", "30", "23.976" */
export const rateLabel = (rate: Rate): string => String(Math.round(fps(rate) * 1000) / 1000);

/** Rates whose timecode may drop numbers: 29.97 and its double. */
export const isDropRate = (rate: Rate): boolean => rate.den === 1001 && (rate.num === 30000 || rate.num === 60000);

/**
 * Timecode of a frame count (SMPTE ST 12-1). Drop-frame counting (separator `;`) leaves out frame
 * numbers 0 and 1 (0-3 at 59.94) at each minute but every tenth.
 */
export function timecode(frame: number, rate: Rate, drop: boolean = isDropRate(rate)): string {
  // Below one frame a second every frame has seconds of its own.
  if (fps(rate) < 1)
    return timecode(Math.floor(frameToSeconds(Math.max(0, Math.floor(frame)), rate)), { num: 1, den: 1 }, false);
  const nominal = Math.round(fps(rate));
  let n = Math.max(0, Math.floor(frame));
  if (drop) {
    const dropped = nominal / 15;
    const perMinute = nominal * 60 - dropped;
    const perTen = nominal * 600 - dropped * 9;
    const tens = Math.floor(n / perTen);
    const rest = n % perTen;
    n += dropped * 9 * tens;
    if (rest >= nominal * 60) n += dropped * (1 + Math.floor((rest - nominal * 60) / perMinute));
  }
  const two = (value: number): string => String(value).padStart(2, '0');
  const s = Math.floor(n / nominal);
  return `${two(Math.floor(s / 3600))}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}${drop ? ';' : ':'}${two(n % nominal)}`;
}

/**
 * Frames that a text names: a whole number counts frames, one with a point or an "s" seconds, with colons it is timecode, whose last part
 * counts frames (a semicolon before it: drop-frame counting). Null for what is none, and for timecodes that do not exist.
 */
export function framesFrom(text: string, rate: Rate): number | null {
  const plain = text.trim().replace(',', '.');
  // Parts of a frame are none: what has a point is seconds.
  const seconds = /^([-+]?\d+(?:\.\d+)?)\s*s$/i.exec(plain) ?? /^([-+]?\d*\.\d+)$/.exec(plain);
  if (seconds) return Math.round((Number(seconds[1]) * rate.num) / rate.den);
  if (/^[-+]?\d+$/.test(plain)) return Number(plain);
  const code = /^(?:(\d+):)?(\d{1,2}):(\d{1,2})([:;])(\d{1,3})$/.exec(plain);
  if (!code) return null;
  const [hours, minutes, whole, , frames] = code.slice(1).map((part) => Number(part ?? 0)) as [
    number,
    number,
    number,
    number,
    number,
  ];
  const nominal = Math.round(fps(rate));
  if (minutes > 59 || whole > 59 || frames >= nominal) return null;
  const drop = code[4] === ';';
  if (drop && !isDropRate(rate)) return null;
  const dropped = drop ? nominal / 15 : 0;
  if (drop && whole === 0 && frames < dropped && minutes % 10 !== 0) return null;
  const total = 60 * hours + minutes;
  return nominal * (60 * total + whole) + frames - dropped * (total - Math.floor(total / 10));
}
