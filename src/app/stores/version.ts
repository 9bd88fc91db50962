/** The app kept by the browser: it starts without its server, and says when the server has a newer one. */
import { otherTabs } from '../../engine/index.ts';
import { notice, useView } from './view.ts';

/** Has the browser keep this version, and looks for a newer one. */
export async function keepVersion(): Promise<void> {
  const workers = (navigator as Partial<Navigator>).serviceWorker;
  if (!workers || !import.meta.env.PROD) return;
  const registration = await workers.register('/sw.js');
  const offer = (): void => {
    // The first one of all is not newer than anything.
    if (registration.waiting && workers.controller) useView.setState({ newer: registration.waiting });
  };
  offer();
  registration.addEventListener('updatefound', () => registration.installing?.addEventListener('statechange', offer));
}

/** Changes to the newer version: never while another tab works with this one. */
export async function takeVersion(): Promise<void> {
  const { newer } = useView.getState();
  if (!newer) return;
  if (await otherTabs()) return notice('Close the other tabs of Akmeon first: they work with this version.', 'error');
  navigator.serviceWorker.addEventListener('controllerchange', () => location.reload(), { once: true });
  newer.postMessage({ type: 'SKIP_WAITING' });
}
