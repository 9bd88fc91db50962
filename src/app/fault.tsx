/** What is shown when a screen fails: the montage is kept, and there is a way back. */
import { useRouteError } from 'react-router';
import { sentence } from '../engine/index.ts';

export function Fault() {
  const error = useRouteError();
  return (
    <main className="mx-auto flex max-w-xl flex-col gap-4 p-10">
      <h1 className="text-lg font-semibold">This screen failed</h1>
      <p className="text-fog">Your montage is kept as it was before. The reason given: {sentence(error)}</p>
      <a className="key self-start" href="/">
        Back to all montages
      </a>
    </main>
  );
}
