/**
 * The rows of a picture in bands, one a thread: helpers draw into the memory that they share with the renderer, where the
 * page is isolated from others and may share memory.
 */
import { MOST_THREADS } from './compile.ts';

export interface Band {
  readonly program: number;
  /** The first time a program is used. */
  readonly module: WebAssembly.Module | null;
  readonly from: number;
  readonly to: number;
  /** The helper's number: 0 is the renderer's own thread. */
  readonly thread: number;
}
export interface Start {
  readonly memory: WebAssembly.Memory;
  readonly control: Int32Array<SharedArrayBuffer>;
}

/** Places in the control words: helpers that are ready, and bands that are done. */
export const READY = 0;
export const DONE = 1;

/** Pixels under which a picture is drawn by one thread: calling the others takes longer. */
const WORTH = 48_000;
/** Milliseconds after which a helper that does not answer is given up. */
const PATIENCE = 4000;

/** Whether several threads may share a memory here: not where the page itself would have to wait for them. */
export const canShare = (): boolean =>
  typeof document === 'undefined' &&
  typeof Worker !== 'undefined' &&
  typeof crossOriginIsolated !== 'undefined' &&
  crossOriginIsolated &&
  navigator.hardwareConcurrency > 1;

export class Bands {
  private readonly control = new Int32Array(new SharedArrayBuffer(8));
  private helpers: Worker[];
  private readonly known = new Set<number>();

  constructor(memory: WebAssembly.Memory) {
    const count = Math.min(MOST_THREADS, navigator.hardwareConcurrency) - 1;
    this.helpers = Array.from({ length: count }, () => {
      const helper = new Worker(new URL('./band.worker.ts', import.meta.url), { type: 'module' });
      helper.postMessage({ memory, control: this.control } satisfies Start);
      return helper;
    });
  }

  /** Draws all rows of a picture; the caller's thread draws a band of its own and waits for the others. */
  run(
    program: number,
    module: WebAssembly.Module,
    width: number,
    height: number,
    own: (from: number, to: number) => void,
  ): void {
    const { helpers } = this;
    // A helper that is still starting would be waited for in vain: starting needs this thread.
    if (!helpers.length || width * height < WORTH || Atomics.load(this.control, READY) < helpers.length)
      return own(0, height);
    const rows = Math.ceil(height / (helpers.length + 1));
    Atomics.store(this.control, DONE, 0);
    const bands = helpers.map((helper, i) => {
      const band = {
        program,
        module: this.known.has(program) ? null : module,
        from: Math.min(height, (i + 1) * rows),
        to: Math.min(height, (i + 2) * rows),
        thread: i + 1,
      };
      helper.postMessage(band satisfies Band);
      return band;
    });
    this.known.add(program);
    own(0, Math.min(height, rows));
    for (;;) {
      const done = Atomics.load(this.control, DONE);
      if (done >= helpers.length) return;
      if (Atomics.wait(this.control, DONE, done, PATIENCE) !== 'timed-out') continue;
      // Drawn again by this thread alone, now and from now on.
      this.close();
      for (const { from, to } of bands) own(from, to);
      return;
    }
  }

  close(): void {
    for (const helper of this.helpers) helper.terminate();
    this.helpers = [];
  }
}
