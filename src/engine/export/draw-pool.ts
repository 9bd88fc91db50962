/** Threads that draw frames beside each other where the processor draws: each with a renderer and a memory of its own. */
import type { View } from '../../core/accents/effect-spec.ts';
import { workerClient, type WorkerClient } from '../jobs/worker-client.ts';
import type { Drawing } from '../render/frame-renderer.ts';
import { lowered } from '../render/groups.ts';
import type { DrawApi } from './draw.worker.ts';

/** Bytes that all threads together may draw in, and what a pixel of a long stack takes: six pictures of 16 bytes. */
const MEMORY = 2 ** 31;
export const BYTES_A_PIXEL = 96;
const MOST_THREADS = 8;

/** Threads for frames of a size: one for each core, as far as memory goes. */
export const threadsFor = ({ width, height }: View, cores: number): number =>
  Math.max(1, Math.min(MOST_THREADS, cores, Math.floor(MEMORY / (width * height * BYTES_A_PIXEL))));

export class DrawPool {
  private readonly clients: WorkerClient<DrawApi>[] = [];
  private next = 0;

  constructor(
    private readonly size: View,
    readonly threads: number,
    private readonly thread: () => Worker,
  ) {}

  /**
   * Limited-range BT.709 I420 of a frame. Frames are dealt by turns, and each thread draws its own in their order.
   * @throws EngineError where it cannot be drawn, or a thread has died
   */
  planes(drawing: Drawing): Promise<Uint8Array<ArrayBuffer>> {
    const turn = this.next++ % this.threads;
    const client = (this.clients[turn] ??= workerClient<DrawApi>(this.thread()));
    return client.api.planes(lowered(drawing, this.size), this.size.width, this.size.height);
  }

  close(): void {
    for (const client of this.clients) client.dispose();
  }
}
