/** Finding people in pictures of one clip, by a model that ships with the app. It takes the page's own thread, a picture at a time. */
import * as Comlink from 'comlink';
import { EngineError } from '../errors.ts';
import type { PeoplePage } from './page.ts';

/** Milliseconds in which the page must have opened, and in which it must have answered. */
const OPENS = 20_000;
const ANSWERS = 60_000;

export interface PeopleFinder {
  /** How far each pixel of an upright picture is of a person, 0-255; pictures of one clip in their order. */
  find(picture: ImageBitmap): Promise<Uint8Array>;
  close(): void;
}

const within = <T>(work: Promise<T>, milliseconds: number): Promise<T> => {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(
      () =>
        reject(new EngineError('graphics-lost', 'People cannot be found here: the browser gives no graphics to it.')),
      milliseconds,
    );
  });
  return Promise.race([work, late]).finally(() => clearTimeout(timer));
};

/** @throws EngineError where the model does not start */
export async function openPeopleFinder(): Promise<PeopleFinder> {
  const frame = document.createElement('iframe');
  frame.src = '/people.html';
  frame.hidden = true;
  const ready = new Promise<void>((resolve) => {
    addEventListener('message', function told(event) {
      if (event.source !== frame.contentWindow || event.data !== 'people-ready') return;
      removeEventListener('message', told);
      resolve();
    });
  });
  document.body.append(frame);
  try {
    await within(ready, OPENS);
  } catch (error) {
    frame.remove();
    throw error;
  }
  const page = Comlink.wrap<PeoplePage>(Comlink.windowEndpoint(frame.contentWindow!, window, location.origin));
  return {
    find: (picture) => within(page.find(Comlink.transfer(picture, [picture])), ANSWERS),
    close: () => frame.remove(),
  };
}
