/** How the command line ends when it does not do what was asked. */
import type { HeadlessReply } from '../engine/headless.ts';

/** 2 wrong use, 3 unreadable or unsupported input, 4 failed. */
export class Exit extends Error {
  constructor(
    readonly code: 2 | 3 | 4,
    message: string,
  ) {
    super(message);
  }
}

/** What the engine answered. @throws Exit */
export function unwrap<T>(reply: HeadlessReply<T>): T {
  if (reply.ok) return reply.value;
  throw new Exit(reply.input ? 3 : 4, reply.message);
}
