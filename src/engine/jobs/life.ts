/** A worker's side of being noticed when it dies. */

/** What the page names a worker by, and what the worker answers. */
export interface LifeMessage {
  readonly life: string;
}

/**
 * Holds a lock under the name that the page gives for as long as the worker lives, and says when it does. The browser
 * frees the lock when the worker ends, however it ends.
 */
export function announceLife(): void {
  self.addEventListener('message', ({ data }: MessageEvent<LifeMessage | null>) => {
    if (typeof data?.life !== 'string') return;
    const { life } = data;
    void navigator.locks.request(life, () => {
      self.postMessage({ life } satisfies LifeMessage);
      return new Promise(() => undefined);
    });
  });
}
