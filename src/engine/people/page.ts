/**
 * The page that finds people: the model and what runs it come from a package that needs a page, and no worker. It is shown
 * nowhere; the app opens it in a frame and asks by messages.
 */
import '../trusted-types.ts';
import model from '@mediapipe/selfie_segmentation/selfie_segmentation.js?url';
import graph from '@mediapipe/selfie_segmentation/selfie_segmentation.binarypb?url';
import square from '@mediapipe/selfie_segmentation/selfie_segmentation.tflite?url';
import landscape from '@mediapipe/selfie_segmentation/selfie_segmentation_landscape.tflite?url';
import loader from '@mediapipe/selfie_segmentation/selfie_segmentation_solution_simd_wasm_bin.js?url';
import code from '@mediapipe/selfie_segmentation/selfie_segmentation_solution_simd_wasm_bin.wasm?url';
import data from '@mediapipe/selfie_segmentation/selfie_segmentation_solution_simd_wasm_bin.data?url';
import type * as Selfie from '@mediapipe/selfie_segmentation';
import * as Comlink from 'comlink';

const FILES: Readonly<Record<string, string>> = {
  'selfie_segmentation.binarypb': graph,
  'selfie_segmentation.tflite': square,
  'selfie_segmentation_landscape.tflite': landscape,
  'selfie_segmentation_solution_simd_wasm_bin.js': loader,
  'selfie_segmentation_solution_simd_wasm_bin.wasm': code,
  'selfie_segmentation_solution_simd_wasm_bin.data': data,
};

/** The package is a script of the old kind: it leaves its class on the window. */
async function script(url: string): Promise<void> {
  const element = document.createElement('script');
  element.src = url;
  document.head.append(element);
  await new Promise((resolve, reject) => {
    element.onload = resolve;
    element.onerror = () => reject(new Error('The model for people cannot be loaded.'));
  });
}

async function started(): Promise<Selfie.SelfieSegmentation> {
  await script(model);
  const { SelfieSegmentation } = window as unknown as typeof Selfie;
  const finder = new SelfieSegmentation({
    locateFile: (name) => {
      const url = FILES[name];
      if (!url) throw new Error('This browser is too old for the model for people.');
      return url;
    },
  });
  finder.setOptions({ modelSelection: 1 });
  await finder.initialize();
  return finder;
}

let finder: Promise<Selfie.SelfieSegmentation> | null = null;

const page = {
  /** How far each pixel of an upright picture is of a person, 0-255; it knows of the picture before. */
  async find(picture: ImageBitmap): Promise<Uint8Array> {
    const { width, height } = picture;
    const own = await (finder ??= started());
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [width, height];
    const context = canvas.getContext('2d', { willReadFrequently: true })!;
    context.drawImage(picture, 0, 0);
    picture.close();
    const found = new Promise<void>((resolve) =>
      own.onResults(({ segmentationMask }) => {
        context.clearRect(0, 0, width, height);
        context.drawImage(segmentationMask, 0, 0, width, height);
        resolve();
      }),
    );
    await own.send({ image: canvas });
    await found;
    const rgba = context.getImageData(0, 0, width, height).data;
    // The mask is told by how far it can be seen through.
    const values = new Uint8Array(width * height);
    for (let i = 0; i < values.length; i++) values[i] = rgba[4 * i + 3]!;
    return Comlink.transfer(values, [values.buffer]);
  },
};
export type PeoplePage = typeof page;

Comlink.expose(page, Comlink.windowEndpoint(window.parent, window, location.origin));
window.parent.postMessage('people-ready', location.origin);
