/** The demo's pictures, drawn frame by frame on a 2D canvas. */
import { hash, unit, valueNoise } from '../../src/core/base/hash.ts';
import { HEIGHT, LANTERN_DRIFT, RAMPART_RALLY, WIDTH, type DemoEvent } from './events.ts';

type Pen = OffscreenCanvasRenderingContext2D;

const W = WIDTH;
const H = HEIGHT;
const since = (events: readonly DemoEvent[], kind: DemoEvent['kind'], frame: number): { age: number; event: DemoEvent } | null => {
  const event = events.findLast((e) => e.kind === kind && e.frame <= frame);
  return event ? { age: frame - event.frame, event } : null;
};

function sky(pen: Pen, top: string, low: string, to: number): void {
  const gradient = pen.createLinearGradient(0, 0, 0, to);
  gradient.addColorStop(0, top);
  gradient.addColorStop(1, low);
  pen.fillStyle = gradient;
  pen.fillRect(-60, -60, W + 120, to + 60);
}

/** A flooded pier at dusk, seen while drifting past it. */
export function drawLantern(pen: Pen, frame: number): void {
  const drift = frame * 0.7;
  const bob = valueNoise(frame / 22, 5) * 5;
  pen.setTransform(1, 0, 0, 1, 0, bob);
  sky(pen, '#101b33', '#c2603c', H * 0.55);
  for (let i = 0; i < 60; i++) {
    pen.fillStyle = `rgba(255,240,210,${0.15 + 0.3 * unit(hash(i, 3))})`;
    pen.fillRect(unit(hash(i, 1)) * W, unit(hash(i, 2)) * H * 0.3, 2, 2);
  }
  // Far stilt houses with lit windows.
  for (let i = 0; i < 14; i++) {
    const x = ((i * 150 - drift * 0.5) % (W + 300) + W + 300) % (W + 300) - 150;
    const h = 50 + unit(hash(i, 9)) * 90;
    pen.fillStyle = '#1a2033';
    pen.fillRect(x, H * 0.55 - h, 84, h);
    pen.fillStyle = '#e8b25a';
    for (let k = 0; k < 4; k++) if (unit(hash(i, k, 11)) > 0.4) pen.fillRect(x + 10 + (k % 2) * 36, H * 0.55 - h + 14 + Math.floor(k / 2) * 30, 14, 16);
  }
  const water = pen.createLinearGradient(0, H * 0.55, 0, H);
  water.addColorStop(0, '#6a4136');
  water.addColorStop(1, '#0d1a26');
  pen.fillStyle = water;
  pen.fillRect(-60, H * 0.55, W + 120, H);
  for (let i = 0; i < 44; i++) {
    const y = H * 0.57 + i * i * 0.13;
    pen.fillStyle = `rgba(240,180,120,${0.05 + 0.08 * unit(hash(i, 21))})`;
    pen.fillRect(((unit(hash(i, 20)) * W * 1.3 - drift * (0.6 + i * 0.03)) % (W * 1.3) + W * 1.3) % (W * 1.3) - W * 0.15, y, 70 + i * 4, 2);
  }
  // Pier posts that the rivals drift between.
  for (let i = 0; i < 7; i++) {
    const x = ((i * 240 - drift * 1.8) % (W + 400) + W + 400) % (W + 400) - 200;
    pen.fillStyle = '#241a18';
    pen.fillRect(x, H * 0.4, 26, H * 0.45);
    pen.fillStyle = '#3a2a22';
    pen.fillRect(x - 14, H * 0.4, 54, 12);
    const figure = x + 120 + valueNoise(frame / 30, i, 7) * 40;
    pen.fillStyle = ['#2f4858', '#57423f', '#3f5747'][i % 3]!;
    pen.beginPath();
    pen.ellipse(figure, H * 0.62, 17, 38, 0, 0, 7);
    pen.arc(figure, H * 0.53, 13, 0, 7);
    pen.fill();
  }
  // The lantern thrower in the foreground, its bolt and its muzzle light.
  const fired = since(LANTERN_DRIFT.events, 'shot', frame);
  const kick = fired && fired.age < 6 ? (6 - fired.age) * 3 : 0;
  const mx = W * 0.66;
  const my = H * 0.7;
  if (fired && fired.age < 12) {
    const far = Math.min(1, (fired.age + 1) / 9);
    const x = mx + (W * 0.46 - mx) * far;
    const y = my + (H * 0.55 - my) * far;
    const glow = pen.createRadialGradient(x, y, 0, x, y, 26 * (1.3 - far));
    glow.addColorStop(0, 'rgba(255,250,220,1)');
    glow.addColorStop(1, 'rgba(255,160,60,0)');
    pen.fillStyle = glow;
    pen.fillRect(x - 40, y - 40, 80, 80);
  }
  pen.fillStyle = '#15181c';
  pen.beginPath();
  pen.moveTo(W * 0.74 + kick, H + 20);
  pen.lineTo(mx - 8 + kick, my + 4);
  pen.lineTo(mx + 22 + kick, my - 12);
  pen.lineTo(W * 0.96 + kick, H + 20);
  pen.fill();
  pen.fillStyle = '#c98a3a';
  pen.fillRect(mx + 6 + kick, my + 22, 40, 10);
  if (fired && fired.age < 3) {
    const r = (190 - fired.age * 55) * (0.7 + 0.3 * fired.event.strength);
    const light = pen.createRadialGradient(mx, my, 0, mx, my, r);
    light.addColorStop(0, 'rgba(255,252,235,1)');
    light.addColorStop(0.4, 'rgba(255,205,120,0.85)');
    light.addColorStop(1, 'rgba(255,150,60,0)');
    pen.fillStyle = light;
    pen.fillRect(mx - r, my - r, 2 * r, 2 * r);
  }
  // Screen furniture does not bob.
  pen.setTransform(1, 0, 0, 1, 0, 0);
  pen.fillStyle = 'rgba(8,12,16,0.6)';
  pen.fillRect(24, H - 48, 170, 24);
  pen.fillStyle = '#5fb7a8';
  pen.fillRect(28, H - 44, 162 * (1 - frame / 700), 16);
  const tag = since(LANTERN_DRIFT.events, 'popup', frame);
  if (tag && tag.age < 40) {
    pen.fillStyle = 'rgba(8,12,16,0.72)';
    pen.fillRect(W - 268, 26, 244, 36);
    pen.fillStyle = '#f2c14e';
    pen.beginPath();
    pen.arc(W - 246, 44, 9, 0, 7);
    pen.fill();
    pen.fillStyle = '#f3ead7';
    pen.font = '600 18px sans-serif';
    pen.fillText(`Miro doused ${['Tamsin', 'Oke', 'Brandt', 'Lys'][Math.floor(tag.event.frame / 75) % 4]}`, W - 226, 50);
  }
}

/** The planks of the rampart, two players and a ball that slams into the wall. */
export function drawRally(pen: Pen, frame: number): void {
  const struck = since(RAMPART_RALLY.events, 'impact', frame);
  const jolt = struck && struck.age < 4 ? (4 - struck.age) * 2.2 * struck.event.strength : 0;
  pen.setTransform(1, 0, 0, 1, (struck && struck.age % 2 ? -1 : 1) * jolt, -jolt * 0.7);
  sky(pen, '#24303c', '#3b4650', H);
  for (let i = -1; i < 13; i++) {
    const shade = 88 + unit(hash(i, 4)) * 34;
    pen.fillStyle = `rgb(${shade + 30},${shade},${shade - 30})`;
    pen.fillRect(i * 82, 30, 78, H * 0.62);
    pen.fillStyle = 'rgba(30,18,10,0.35)';
    for (let k = 0; k < 6; k++) pen.fillRect(i * 82 + unit(hash(i, k, 6)) * 70, 30 + unit(hash(i, k, 5)) * H * 0.55, 3, 40);
  }
  pen.fillStyle = '#d9d2c0';
  pen.fillRect(-60, 30 + H * 0.28, W + 120, 6);
  pen.fillStyle = '#586b4f';
  pen.fillRect(-60, H * 0.68, W + 120, H);
  for (let i = 0; i < 30; i++) {
    pen.fillStyle = 'rgba(20,30,18,0.25)';
    pen.fillRect(unit(hash(i, 31)) * W, H * 0.7 + unit(hash(i, 32)) * H * 0.28, 40, 3);
  }
  // Ball flight: out from the player, into the wall on the frame of the event, and back.
  const next = RAMPART_RALLY.events.find((e) => e.frame > frame);
  const wall = (e: DemoEvent): [number, number] => [W * (0.3 + 0.4 * unit(hash(e.frame, 1))), H * (0.2 + 0.25 * unit(hash(e.frame, 2)))];
  const hand = (e: DemoEvent): [number, number] => [e.frame % 2 ? W * 0.3 : W * 0.7, H * 0.66];
  let ball: [number, number] | null = null;
  let size = 15;
  if (next && next.frame - frame <= 9) {
    const f = 1 - (next.frame - frame) / 9;
    const [a, b] = [hand(next), wall(next)];
    ball = [a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f];
    size = 20 - 8 * f;
  } else if (struck && struck.age < 16) {
    const f = struck.age / 16;
    const [a, b] = [wall(struck.event), next ? hand(next) : hand(struck.event)];
    ball = [a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f + 130 * f * (f - 1) * -1];
    size = 12 + 8 * f;
  } else if (next) {
    ball = hand(next);
    size = 20;
  }
  for (const [i, x] of [W * 0.3, W * 0.7].entries()) {
    const reach = next && Math.abs(hand(next)[0] - x) < 1 && next.frame - frame < 14 ? (14 - (next.frame - frame)) * 2 : 0;
    pen.fillStyle = i ? '#7a2f38' : '#2c5a7a';
    pen.beginPath();
    pen.ellipse(x, H * 0.78, 30, 66, 0, 0, 7);
    pen.fill();
    pen.fillStyle = '#d7a983';
    pen.beginPath();
    pen.arc(x, H * 0.62, 22, 0, 7);
    pen.fill();
    pen.fillRect(x + 8, H * 0.68 - reach, 14, 46);
  }
  if (struck && struck.age < 7) {
    const [x, y] = wall(struck.event);
    pen.strokeStyle = `rgba(250,240,210,${1 - struck.age / 7})`;
    pen.lineWidth = 5;
    pen.beginPath();
    pen.arc(x, y, 18 + struck.age * 12, 0, 7);
    pen.stroke();
  }
  if (ball) {
    pen.fillStyle = '#f0e2b6';
    pen.beginPath();
    pen.arc(ball[0], ball[1], size, 0, 7);
    pen.fill();
  }
}
