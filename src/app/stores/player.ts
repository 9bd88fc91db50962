/** Playing: the sound's clock leads, pictures follow and are dropped before they lag. */
import { chunkAfter, placeAfter, type Played } from '../../core/sound/chunks.ts';
import type { Audition } from '../../core/accents/plan.ts';
import { meter } from './meter.ts';
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

/** What is played, an accent in place of all others where one is tried. */
type Heard = Played & { readonly audition?: Audition | undefined };

/** How often fed sound came too late, so that there was a gap: for tests. */
export const soundGaps = { count: 0 };

let context: AudioContext | null = null;
let run: { stop: () => void } | null = null;

export const stopPlaying = (): void => {
  run?.stop();
  run = null;
  meter.clear();
  useView.setState({ playing: false });
};

const samplesOf = (seconds: number): number => Math.round(seconds * SOUND_RATE);

/** What is played: the loop around the chosen hit, or all from the playhead on. */
function wanted(): Played | null {
  const derived = derivedNow();
  if (!derived || derived.line.count === 0) return null;
  const { line, shown, everywhere } = derived;
  const { looping, playhead, chosen } = useView.getState();
  // Without a choice the loop goes around the hit that accents are shaped on.
  const hit = everywhere.find((o) => o.key === chosen) ?? shapingHit(shown);
  if (looping && hit) {
    const from = samplesOf(line.timeOf(Math.max(0, hit.frame - LOOP_BEFORE)));
    return {
      stretches: [{ from, to: samplesOf(line.timeOf(Math.min(line.count, hit.frame + LOOP_AFTER))) }],
      start: 0,
      loop: true,
    };
  }
  return {
    stretches: [{ from: 0, to: samplesOf(line.duration) }],
    start: playhead >= line.count - 1 ? 0 : samplesOf(line.timeOf(playhead)),
    loop: false,
  };
}

/** Seconds of a member that is heard, and how long before its attack it begins. */
const HEARD = 0.4;
const HEARD_BEFORE = 0.06;

/** Plays what lies at these montage frames one after another, a moment of each. */
export function hearFrames(frames: readonly number[]): void {
  const derived = derivedNow();
  if (!derived || !frames.length) return;
  const { line } = derived;
  const stretches = frames.map((frame) => {
    const from = Math.max(0, line.timeOf(frame) - HEARD_BEFORE);
    return { from: samplesOf(from), to: samplesOf(Math.min(line.duration, from + HEARD)) };
  });
  void startPlaying({ stretches, start: 0, loop: false });
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

export async function startPlaying(own?: Heard): Promise<void> {
  stopPlaying();
  const playing: Heard | null = own ?? wanted();
  if (!playing) return;
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
  // Only what was started, and is not over.
  const voices = new Set<AudioBufferSourceNode>();
  run.stop = () => {
    stopped = true;
    for (const voice of voices) voice.stop();
    voices.clear();
  };
  let scheduled = 0;
  meter.clear();
  const feed = async (): Promise<void> => {
    while (!stopped && sound && mediaLocations().size) {
      const played = (now() - origin) * speed;
      if (scheduled / SOUND_RATE > played + AHEAD * speed) {
        await new Promise((resolve) => setTimeout(resolve, 60));
        continue;
      }
      const chunk = chunkAfter(playing, scheduled, CHUNK * SOUND_RATE);
      if (!chunk) return;
      const [left, right] = await frameServer().sound(
        chunk.from,
        chunk.count,
        playing.audition ?? useView.getState().heard,
      );
      if (stopped) return;
      meter.put(scheduled, left, right);
      const buffer = sound.createBuffer(2, chunk.count, SOUND_RATE);
      buffer.copyToChannel(left, 0);
      buffer.copyToChannel(right, 1);
      const at = origin + scheduled / SOUND_RATE / speed;
      const late = Math.max(0, sound.currentTime - at);
      if (late * speed < buffer.duration) {
        const voice = new AudioBufferSourceNode(sound, { buffer, playbackRate: speed });
        voice.connect(sound.destination);
        voice.onended = () => voices.delete(voice);
        if (late > 0 && scheduled > 0) soundGaps.count++;
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
    const place = placeAfter(playing, Math.floor(played * SOUND_RATE));
    meter.show(played * SOUND_RATE);
    if (!derived || !place) {
      stopPlaying();
      return;
    }
    useView.setState({ playhead: derived.line.frameAt(place.at / SOUND_RATE) });
    requestAnimationFrame(tick);
  };
  requestAnimationFrame(tick);
}

export const togglePlaying = (): void => {
  if (useView.getState().playing) stopPlaying();
  else void startPlaying();
};

/** Takes up a change of speed or loop while playing; a loop that is switched on plays. */
export const retune = (change: Partial<{ speed: 1 | 0.5 | 0.25; looping: boolean }>): void => {
  useView.setState(change);
  if (change.looping || useView.getState().playing) void startPlaying();
};
