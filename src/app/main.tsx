import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import './app.css';
import { Fault } from './rescue.tsx';
import { sweepAndStay } from '../engine/index.ts';
import { keepVersion } from './stores/version.ts';
import { DemoEntry, Workspace } from './workspace.tsx';

const router = createBrowserRouter([
  {
    errorElement: <Fault />,
    children: [
      { path: '/', lazy: async () => ({ Component: (await import('./home.tsx')).Home }) },
      { path: '/many', lazy: async () => ({ Component: (await import('./many.tsx')).ManyPage }) },
      { path: '/queue', lazy: async () => ({ Component: (await import('./queue.tsx')).QueuePage }) },
      { path: '/demo-montage', element: <DemoEntry /> },
      { path: '/montage/:id', element: <Navigate to="bring-in" replace /> },
      { path: '/montage/:id/:station', element: <Workspace /> },
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
]);

// Frees what earlier visits left, when this is the only tab, before anything new is kept; where storage is refused there
// is nothing to free.
void sweepAndStay()
  .catch(() => undefined)
  .then(() => createRoot(document.getElementById('root')!).render(<RouterProvider router={router} />))
  .then(keepVersion)
  // A browser that keeps nothing works with the server alone.
  .catch(() => undefined);
