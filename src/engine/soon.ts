/** Waiting for the next turn without a timer: behind another tab browsers hold timers back by a second and more. */
const channel = new MessageChannel();
const waiting: (() => void)[] = [];
channel.port1.onmessage = () => waiting.shift()?.();
// In Node an open port would keep the process.
(channel.port1 as { unref?(): void }).unref?.();

/** Resolves when all that waits to be done in this thread has had its turn. */
export const soon = (): Promise<void> =>
  new Promise((resolve) => {
    waiting.push(resolve);
    channel.port2.postMessage(null);
  });
