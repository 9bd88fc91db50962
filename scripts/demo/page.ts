/** Runs in headless Chromium: draws, plays and encodes one demo medium, and hands back its bytes. */
import { AudioSample, AudioSampleSource, BufferTarget, Mp4OutputFormat, OggOutputFormat, Output, VideoSample, VideoSampleSource } from 'mediabunny';
import { registerAacEncoder } from '@mediabunny/aac-encoder';
import { rgbaToI420 } from '../../src/core/base/colour.ts';
import { HEIGHT, LANTERN_DRIFT, RAMPART_RALLY, RATE, SOUND_RATE, WIDTH } from './events.ts';
import { drawLantern, drawRally } from './picture.ts';
import { lanternSound, music, rallySound } from './sound.ts';

registerAacEncoder();

async function addSound(source: AudioSampleSource, mono: Float32Array): Promise<void> {
  for (let at = 0; at < mono.length; at += SOUND_RATE) {
    const part = mono.slice(at, at + SOUND_RATE);
    const data = new Float32Array(part.length * 2);
    data.set(part);
    data.set(part, part.length);
    const sample = new AudioSample({ data, format: 'f32-planar', numberOfChannels: 2, sampleRate: SOUND_RATE, timestamp: at / SOUND_RATE });
    await source.add(sample);
    sample.close();
  }
}

async function film(frames: number, draw: typeof drawLantern, sound: Float32Array): Promise<Uint8Array> {
  const canvas = new OffscreenCanvas(WIDTH, HEIGHT);
  const pen = canvas.getContext('2d', { willReadFrequently: true })!;
  const output = new Output({ format: new Mp4OutputFormat({ fastStart: 'in-memory' }), target: new BufferTarget() });
  const video = new VideoSampleSource({ codec: 'avc', bitrate: 1.7e6, keyFrameInterval: 2 });
  const audio = new AudioSampleSource({ codec: 'aac', bitrate: 128e3 });
  output.addVideoTrack(video);
  output.addAudioTrack(audio);
  await output.start();
  await addSound(audio, sound);
  const data = new Uint8Array(WIDTH * HEIGHT * 1.5);
  for (let frame = 0; frame < frames; frame++) {
    draw(pen, frame);
    rgbaToI420(pen.getImageData(0, 0, WIDTH, HEIGHT).data, WIDTH, HEIGHT, data);
    const sample = new VideoSample(data, {
      format: 'I420', codedWidth: WIDTH, codedHeight: HEIGHT, timestamp: frame / RATE, duration: 1 / RATE,
      colorSpace: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', fullRange: false },
    });
    await video.add(sample);
    sample.close();
  }
  await output.finalize();
  return new Uint8Array((output.target as BufferTarget).buffer!);
}

async function track(): Promise<Uint8Array> {
  const output = new Output({ format: new OggOutputFormat(), target: new BufferTarget() });
  const audio = new AudioSampleSource({ codec: 'opus', bitrate: 128e3 });
  output.addAudioTrack(audio);
  await output.start();
  await addSound(audio, music());
  await output.finalize();
  return new Uint8Array((output.target as BufferTarget).buffer!);
}

const base64 = (bytes: Uint8Array): string => {
  let text = '';
  for (let i = 0; i < bytes.length; i += 32768) text += String.fromCharCode(...bytes.subarray(i, i + 32768));
  return btoa(text);
};

declare global {
  interface Window { makeDemo: (which: 'lantern' | 'rally' | 'music') => Promise<string> }
}
window.makeDemo = async (which) => base64(await (which === 'music' ? track()
  : which === 'lantern' ? film(LANTERN_DRIFT.frames, drawLantern, lanternSound())
  : film(RAMPART_RALLY.frames, drawRally, rallySound())));
