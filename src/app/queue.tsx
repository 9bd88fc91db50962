/** The progress of a batch over several machines, where the server knows its queue. */
import { useEffect, useState } from 'react';

/** As the server tells it. */
interface QueueStatus {
  readonly workers: number;
  readonly jobs: readonly { recording: string; file: string; state: string; by?: string; why?: string }[];
}
const AGAIN = 2000;
const NAMES: Record<string, string> = {
  waiting: 'waits',
  working: 'is worked on',
  done: 'is made',
  there: 'was there',
  failed: 'failed',
};

export function QueuePage() {
  const [status, setStatus] = useState<QueueStatus | string | null>('Asking the queue…');
  useEffect(() => {
    let timer = 0;
    let gone = false;
    const ask = async (): Promise<void> => {
      const next = await fetch('/queue.json')
        .then(async (answer) => (answer.ok ? ((await answer.json()) as QueueStatus | null) : answer.text()))
        .catch(() => 'The server does not answer.');
      if (gone) return;
      setStatus(next);
      timer = window.setTimeout(() => void ask(), AGAIN);
    };
    void ask();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, []);
  const known = typeof status === 'object' ? status : null;
  const ended = known?.jobs.filter(({ state }) => state !== 'waiting' && state !== 'working').length ?? 0;
  return (
    <main className="mx-auto flex h-full max-w-3xl flex-col gap-4 overflow-y-auto p-10">
      <h1 className="text-2xl font-semibold tracking-tight">Recordings in the queue</h1>
      <a href="/" className="text-fog underline">
        All montages
      </a>
      {typeof status === 'string' && <p role="status">{status}</p>}
      {status === null && (
        <p>
          The server was started without a queue: <code className="mono">AKMEON_QUEUE=redis://HOST npm start</code>
        </p>
      )}
      {known && (
        <>
          <p role="status">
            {ended} of {known.jobs.length} have ended; {known.workers} {known.workers === 1 ? 'worker' : 'workers'} at
            work.
          </p>
          <progress className="h-1.5 w-full" value={ended} max={Math.max(1, known.jobs.length)} />
          <table className="w-full text-left">
            <tbody>
              {known.jobs.map(({ recording, file, state, by, why }) => (
                <tr key={`${recording} ${file}`} className="border-t border-rope align-top" data-queued={state}>
                  <td className="py-1 pr-3">{recording}</td>
                  <td className={`py-1 pr-3 whitespace-nowrap ${state === 'failed' ? 'text-ember' : ''}`}>
                    {NAMES[state] ?? state}
                  </td>
                  <td className="py-1 text-fog">{why ?? by}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </main>
  );
}
