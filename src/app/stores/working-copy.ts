/** Working copies of footage that this browser cannot decode, made by the server's ffmpeg. */
import { EngineError } from '../../engine/index.ts';
import { bringIn } from './bring-in.ts';
import { jobs, say } from './jobs.ts';
import { useMontage } from './montage.ts';
import { useView } from './view.ts';

export const letGo = (file: File): void =>
  useView.setState(({ refused }) => ({ refused: refused.filter((one) => one.file !== file) }));

/** Bytes sent at once. */
const PIECE = 16 << 20;
/** Milliseconds between two questions how far it is. */
const ASKED = 400;

/** Whether this machine's ffmpeg can be used; else the command that installs it, or null where there is no server. */
export async function canCopy(): Promise<true | string | null> {
  try {
    const { available, install } = (await (await fetch('/copies')).json()) as { available: boolean; install: string };
    return available || install;
  } catch {
    return null;
  }
}

async function asked(path: string, init?: RequestInit): Promise<Response> {
  const reply = await fetch(`/copies${path}`, init);
  if (!reply.ok) throw new EngineError(reply.status === 507 ? 'storage-full' : 'unreadable', await reply.text());
  return reply;
}

/** Makes a copy that the browser reads, and brings that in. */
export async function makeCopy(file: File): Promise<void> {
  const owner = useMontage.getState().montage?.id;
  if (!owner) return;
  try {
    const copy = await jobs.run({ kind: 'bring-in', owner, label: `Copying ${file.name} for editing` }, async (job) => {
      const { token } = (await (await asked(`?size=${file.size}`, { method: 'POST' })).json()) as { token: string };
      try {
        for (let at = 0; at < file.size; at += PIECE) {
          if (job.signal.aborted) throw new EngineError('cancelled', 'Cancelled.');
          await asked(`/${token}?position=${at}`, { method: 'PUT', body: file.slice(at, at + PIECE) });
          job.progress((0.3 * at) / file.size, { detail: 'handing it over' });
        }
        await asked(`/${token}`, { method: 'POST' });
        for (;;) {
          if (job.signal.aborted) throw new EngineError('cancelled', 'Cancelled.');
          const { state, share, why } = (await (await asked(`/${token}`)).json()) as {
            state: string;
            share: number;
            why: string;
          };
          if (state === 'done') break;
          if (state === 'failed') throw new EngineError('unreadable', `${file.name}: ${why}`);
          job.progress(0.3 + 0.7 * share, { detail: 'making H.264 of it' });
          await new Promise((resolve) => setTimeout(resolve, ASKED));
        }
        const made = await (await asked(`/${token}/file`)).blob();
        return new File([made], `${file.name.replace(/\.[^.]+$/, '')} (copy).mp4`, { type: 'video/mp4' });
      } finally {
        await fetch(`/copies/${token}`, { method: 'DELETE' }).catch(() => undefined);
      }
    });
    letGo(file);
    await bringIn([{ file: copy, handle: null }]);
  } catch (error) {
    say(error);
  }
}
