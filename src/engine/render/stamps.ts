/** Titles as pictures: drawn by the browser once for each wording and size, laid over finished frames as they are displayed. */
import sansCyrillic from '@fontsource-variable/inter/files/inter-cyrillic-wght-normal.woff2?url';
import sansGreek from '@fontsource-variable/inter/files/inter-greek-wght-normal.woff2?url';
import sansLatinMore from '@fontsource-variable/inter/files/inter-latin-ext-wght-normal.woff2?url';
import sansLatin from '@fontsource-variable/inter/files/inter-latin-wght-normal.woff2?url';
import monoCyrillic from '@fontsource-variable/jetbrains-mono/files/jetbrains-mono-cyrillic-wght-normal.woff2?url';
import monoGreek from '@fontsource-variable/jetbrains-mono/files/jetbrains-mono-greek-wght-normal.woff2?url';
import monoLatinMore from '@fontsource-variable/jetbrains-mono/files/jetbrains-mono-latin-ext-wght-normal.woff2?url';
import monoLatin from '@fontsource-variable/jetbrains-mono/files/jetbrains-mono-latin-wght-normal.woff2?url';
import { once } from '../../core/base/once.ts';
import type { View } from '../../core/accents/effect-spec.ts';
import { SAFE_AREA, type PlannedTitle } from '../../core/accents/titles.ts';
import type { Typeface } from '../../core/document/types.ts';
import { ownFamily, ownFont } from './typefaces.ts';

/** Premultiplied RGBA rows, top first, with its upper left corner in whole pixels of the frame. */
export interface Stamp extends View {
  readonly data: Uint8ClampedArray<ArrayBuffer>;
  readonly x: number;
  readonly y: number;
  /** 0-1. */
  readonly opacity: number;
}

const FACES: Record<PlannedTitle['font'], readonly string[]> = {
  sans: [sansLatin, sansLatinMore, sansGreek, sansCyrillic],
  mono: [monoLatin, monoLatinMore, monoGreek, monoCyrillic],
};
const familyOf = (font: PlannedTitle['font'], i: number): string => `Akmeon ${font} ${i}`;

/** Height of a line, shares of the size, and the room around a box. */
const LEADING = 1.2;
const ROOM = 0.3;
/** A title's picture is at most so many times as wide and as high as the frame: the rest of it is never seen. */
const MOST = 2;
/** Pictures of titles that are kept. */
const MOST_KEPT = 32;

/** Has the typefaces that ship in this thread; where one cannot be read the browser's own stands in for it. */
const shippedFonts = once(async (): Promise<void> => {
  const fonts = (globalThis as unknown as { fonts?: FontFaceSet }).fonts;
  if (!fonts) return;
  await Promise.all(
    Object.entries(FACES).flatMap(([font, urls]) =>
      urls.map(async (url, i) => {
        const face = new FontFace(familyOf(font as PlannedTitle['font'], i), `url(${url})`, { weight: '100 900' });
        await face.load().then(
          (loaded) => fonts.add(loaded),
          () => undefined,
        );
      }),
    ),
  );
});

/** The same, and a montage's own ones. */
export async function titleFonts(own: readonly Typeface[] = []): Promise<void> {
  await Promise.all([shippedFonts(), ...own.map((typeface) => ownFont(typeface).catch(() => undefined))]);
}

/** `room`: pixels beside the text that its outline, shadow and box have. */
type Picture = Pick<Stamp, 'data' | 'width' | 'height'> & {
  readonly left: number;
  readonly top: number;
  readonly room: number;
};
const kept = new Map<string, { readonly picture: Picture; readonly dx: number; readonly dy: number }>();

/** A canvas to write on, and what each line of a title measures there. */
function written({ text, font, own, spacing = 0, weight, size }: PlannedTitle, view: View) {
  const pixels = Math.max(1, size * view.height);
  const canvas = new OffscreenCanvas(1, 1);
  const pen = canvas.getContext('2d', { willReadFrequently: true })!;
  const shipped = FACES[font].map((_, i) => `"${familyOf(font, i)}"`);
  const families = [...(own ? [`"${ownFamily(own)}"`] : []), ...shipped].join(', ');
  const style = `${weight} ${pixels}px ${families}, ${font === 'mono' ? 'monospace' : 'sans-serif'}`;
  pen.font = style;
  pen.letterSpacing = `${spacing * pixels}px`;
  const lines = text.split('\n');
  const widths = lines.map((line) => pen.measureText(line).width);
  return { canvas, pen, style, pixels, lines, widths, wide: Math.max(1, ...widths), spacing: `${spacing * pixels}px` };
}

/** What a title looks like at a size, from the point it is placed by. */
function pictureOf(title: PlannedTitle, view: View): Picture {
  const { colour, box, outline, shadow, align } = title;
  const { canvas, pen, style, pixels, lines, widths, wide, spacing } = written(title, view);
  const room = Math.ceil(pixels * (ROOM + outline + (shadow ? 0.15 : 0)));
  const [wanted, high] = [Math.ceil(wide) + 2 * room, Math.ceil(lines.length * LEADING * pixels) + 2 * room];
  const [w, h] = [Math.min(wanted, MOST * view.width), Math.min(high, MOST * view.height)];
  // What is too large loses its far ends, and lies where it lay.
  const over = { x: align === 'left' ? 0 : align === 'right' ? wanted - w : (wanted - w) / 2, y: (high - h) / 2 };
  canvas.width = w;
  canvas.height = h;
  pen.font = style;
  pen.letterSpacing = spacing;
  pen.textBaseline = 'middle';
  pen.lineJoin = 'round';
  if (box) {
    pen.fillStyle = box;
    const inner = Math.max(0, room - pixels * ROOM);
    pen.fillRect(inner, inner, w - 2 * inner, h - 2 * inner);
  }
  lines.forEach((line, i) => {
    const x = room - over.x + (align === 'left' ? 0 : align === 'right' ? wide - widths[i]! : (wide - widths[i]!) / 2);
    const y = room - over.y + (i + 0.5) * LEADING * pixels;
    if (shadow) {
      pen.shadowColor = 'rgba(0, 0, 0, 0.6)';
      pen.shadowBlur = pixels * 0.12;
      pen.shadowOffsetY = pixels * 0.04;
    }
    if (outline > 0) {
      pen.strokeStyle = '#000000';
      pen.lineWidth = 2 * outline * pixels;
      pen.strokeText(line, x, y);
      pen.shadowColor = 'transparent';
    }
    pen.fillStyle = colour;
    pen.fillText(line, x, y);
    pen.shadowColor = 'transparent';
  });
  const { data } = pen.getImageData(0, 0, w, h);
  for (let i = 0; i < data.length; i += 4) {
    const alpha = data[i + 3]! / 255;
    for (let c = 0; c < 3; c++) data[i + c] = Math.round(data[i + c]! * alpha);
  }
  const side = align === 'left' ? room : align === 'right' ? w - room : w / 2;
  return { data: data as Uint8ClampedArray<ArrayBuffer>, width: w, height: h, left: side, top: h / 2, room };
}

/** A title no wider and no higher than the safe area, and by how many pixels its place is moved into that. */
function withinSafe(title: PlannedTitle, view: View): { title: PlannedTitle; dx: number; dy: number } {
  const { within, align, box } = title;
  if (!within) return { title, dx: 0, dy: 0 };
  const whole = { ...title, text: within.text };
  const measured = (of: PlannedTitle): [number, number] => {
    const { wide, lines, pixels } = written(of, view);
    const beside = box ? 2 * ROOM * pixels : 0;
    return [wide + beside, lines.length * LEADING * pixels + beside];
  };
  const [wide, high] = measured(whole);
  const [most, tall] = [view.width, view.height].map((side) => side * (1 - 2 * SAFE_AREA));
  const smaller = Math.min(1, most! / wide, tall! / high);
  const fitted = smaller < 1 ? { ...title, size: title.size * smaller } : title;
  const [w, h] = smaller < 1 ? measured({ ...whole, size: fitted.size }) : [wide, high];
  const beside = box ? ROOM * fitted.size * view.height : 0;
  const [x, y] = [view.width / 2 + within.x * view.height, view.height / 2 + within.y * view.height];
  const left = align === 'left' ? x - beside : align === 'right' ? x + beside - w : x - w / 2;
  const moved = (from: number, size: number, side: number): number => {
    const least = side * SAFE_AREA;
    return Math.max(least - from, Math.min(0, side - least - size - from));
  };
  return { title: fitted, dx: moved(left, w, view.width), dy: moved(y - h / 2, h, view.height) };
}

/** A title for a frame of a size; {@link titleFonts} has come to its end. */
export function stampOf(asked: PlannedTitle, view: View): Stamp {
  const { id: _, x, y, opacity, ...looks } = asked;
  const key = JSON.stringify([looks, view.width, view.height]);
  let one = kept.get(key);
  if (!one) {
    const { title, dx, dy } = withinSafe(asked, view);
    kept.set(key, (one = { picture: pictureOf(title, view), dx, dy }));
    const [oldest] = kept.keys();
    if (kept.size > MOST_KEPT) kept.delete(oldest!);
  }
  const { data, width, height, left, top } = one.picture;
  return {
    data,
    width,
    height,
    opacity,
    x: Math.round(view.width / 2 + x * view.height + one.dx - left),
    y: Math.round(view.height / 2 + y * view.height + one.dy - top),
  };
}

/** Whether all of a title's text is on a frame of a size; {@link titleFonts} has come to its end. */
export function isWhole(asked: PlannedTitle, view: View): boolean {
  const { title, dx, dy } = withinSafe(asked, view);
  const { wide, lines, pixels } = written(title, view);
  const [x, y] = [view.width / 2 + title.x * view.height + dx, view.height / 2 + title.y * view.height + dy];
  const left = title.align === 'left' ? x : title.align === 'right' ? x - wide : x - wide / 2;
  const half = (lines.length * LEADING * pixels) / 2;
  // A pixel of it is no more than rounding.
  return left >= -1 && left + wide <= view.width + 1 && y - half >= -1 && y + half <= view.height + 1;
}

/** A title alone, on a picture as large as the view: RGBA, not premultiplied. */
export function titleAlone(title: PlannedTitle, view: View): Uint8ClampedArray {
  const rows = new Uint8ClampedArray(4 * view.width * view.height);
  const { data, width, height, x, y, opacity } = stampOf(title, view);
  for (let row = Math.max(0, y); row < Math.min(view.height, y + height); row++)
    for (let column = Math.max(0, x); column < Math.min(view.width, x + width); column++) {
      const from = 4 * ((row - y) * width + column - x);
      const to = 4 * (row * view.width + column);
      const alpha = data[from + 3]!;
      for (let c = 0; c < 3 && alpha; c++) rows[to + c] = (255 * data[from + c]!) / alpha;
      rows[to + 3] = opacity * alpha;
    }
  return rows;
}

/** Lays stamps over displayed RGBA rows, `stride` pixels from one to the next. */
export function laidOver(rows: Uint8Array, { width, height }: View, stride: number, stamps: readonly Stamp[]): void {
  for (const stamp of stamps) {
    const { data, opacity } = stamp;
    const [left, right] = [Math.max(0, stamp.x), Math.min(width, stamp.x + stamp.width)];
    for (let y = Math.max(0, stamp.y); y < Math.min(height, stamp.y + stamp.height); y++) {
      let to = 4 * (y * stride + left);
      let from = 4 * ((y - stamp.y) * stamp.width + left - stamp.x);
      for (let x = left; x < right; x++, to += 4, from += 4) {
        const through = 1 - (opacity * data[from + 3]!) / 255;
        for (let c = 0; c < 3; c++)
          rows[to + c] = Math.min(255, opacity * data[from + c]! + through * rows[to + c]! + 0.5);
      }
    }
  }
}
