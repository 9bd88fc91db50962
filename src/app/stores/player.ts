/** Playing: the sound's clock leads, pictures follow and are dropped before they lag. */
import { chunkAfter, type PlayedRange } from '../../core/sound/chunks.ts';
import { derivedNow, shapingHit } from './derived.ts';
import { mediaLocations, frameServer } from './media.ts';
import { usePreferences, useView } from './view.ts';

const SOUND_RATE = 48000;
/** Seconds of sound prepared ahead. */
const AHEAD = 1.2;
const CHUNK = 0.5;
/** Frames before and after a hit that its loop shows. */
const LOOP_BEFORE = 12;
const LOOP_AFTER = 24;

let context: AudioContext | null = null;
let run: { stop: () => void } | null = null;

export const stopPlaying = (): void => {
  run?.stop();
  run = null;
  useView.setState({ playing: false });
};

/** Montage seconds that are played: the loop around the chosen hit, or all from the playhead on. */
function range(): { from: number; to: number; start: number; loop: boolean } | null {
  const derived = derivedNow();
  if (!derived || derived.line.count === 0) return null;
  const { line, shown } = derived;
  const { looping, playhead, chosen } = useView.getState();
  // Without a choice the loop goes around the hit that accents are shaped on.
  const hit = shown.find((o) => o.key === chosen) ?? shapingHit(shown);
  if (looping && hit) {
    const from = line.timeOf(Math.max(0, hit.frame - LOOP_BEFORE));
    return { from, to: line.timeOf(Math.min(line.count, hit.frame + LOOP_AFTER)), start: from, loop: true };
  }
  const start = playhead >= line.count - 1 ? 0 : line.timeOf(playhead);
  return { from: 0, to: line.duration, start, loop: false };
}

/** Seconds that the sound device says it needs; 0 before sound was ever played. */
export const deviceLatency = (): number => context?.outputLatency || context?.baseLatency || 0;

/** The sound's clock where it runs, else the page's. */
export async function clock(): Promise<{ now: () => number; sound: AudioContext | null }> {
  try {
    context ??= new AudioContext({ sampleRate: SOUND_RATE });
    await Promise.race([context.resume(), new Promise((resolve) => setTimeout(resolve, 300))]);
    if (context.state === 'running') {
      const sound = context;
      return { now: () => sound.currentTime, sound };
    }
  } catch {
    // No sound device: pictures still play.
  }
  return { now: () => performance.now() / 1000, sound: null };
}

export async function startPlaying(): Promise<void> {
  stopPlaying();
  const bounds = range();
  if (!bounds) return;
  const { speed } = useView.getState();
  let stopped = false;
  run = { stop: () => (stopped = true) };
  const mine = run;
  useView.setState({ playing: true });
  const { now, sound } = await clock();
  if (stopped) return;
  // What is heard lags what is scheduled by the device's latency; pictures wait for it.
  const latency = sound ? Math.max(0, deviceLatency() + usePreferences.getState().soundLag / 1000) : 0;
  const origin = now() + 0.12;
  const length = bounds.to - bounds.from;
  /** Seconds played since the start to montage seconds. */
  const place = (played: number): number => {
    const t = bounds.start - bounds.from + played;
    return bounds.loop ? bounds.from + (t % length) : bounds.from + t;
  };
  const samples: PlayedRange = {
    from: Math.round(bounds.from * SOUND_RATE),
    to: Math.round(bounds.to * SOUND_RATE),
    start: Math.round(bounds.start * SOUND_RATE),
    loop: bounds.loop,
  };
  // Only what was started, and is not over.
  const voices = new Set<AudioBufferSourceNode>();
  run.stop = () => {
    stopped = true;
    for (const voice of voices) voice.stop();
    voices.clear();
  };
  let scheduled = 0;
  const feed = async (): Promise<void> => {
    while (!stopped && sound && mediaLocations().size) {
      const played = (now() - origin) * speed;
      if (scheduled / SOUND_RATE > played + AHEAD * speed) {
        await new Promise((resolve) => setTimeout(resolve, 60));
        continue;
      }
      const chunk = chunkAfter(samples, scheduled, CHUNK * SOUND_RATE);
      if (!chunk) return;
      const [left, right] = await frameServer().sound(chunk.from, chunk.count);
      if (stopped) return;
      const buffer = sound.createBuffer(2, chunk.count, SOUND_RATE);
      buffer.copyToChannel(left, 0);
      buffer.copyToChannel(right, 1);
      const at = origin + scheduled / SOUND_RATE / speed;
      const late = Math.max(0, sound.currentTime - at);
      if (late * speed < buffer.duration) {
        const voice = new AudioBufferSourceNode(sound, { buffer, playbackRate: speed });
        voice.connect(sound.destination);
        voice.onended = () => voices.delete(voice);
        voice.start(Math.max(at, sound.currentTime), late * speed);
        voices.add(voice);
      }
      scheduled += chunk.count;
    }
  };
  // Where no sound can be had, pictures still play.
  void feed().catch(() => undefined);
  const tick = (): void => {
    if (stopped || run !== mine) return;
    const derived = derivedNow();
    const played = Math.max(0, (now() - origin - latency) * speed);
    const t = place(played);
    if (!derived || (!bounds.loop && t >= bounds.to)) {
      stopPlaying();
      return;
    }
    useView.setState({ playhead: derived.line.frameAt(t) });
    requestAnimationFrame(tick);
  };
  requestAnimationFrame(tick);
}

export const togglePlaying = (): void => {
  if (useView.getState().playing) stopPlaying();
  else void startPlaying();
};

/** Takes up a change of speed or loop while playing. */
export const retune = (change: Partial<{ speed: 1 | 0.5 | 0.25; looping: boolean }>): void => {
  useView.setState(change);
  if (useView.getState().playing) void startPlaying();
};
