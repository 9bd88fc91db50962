import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import './app.css';
import { Fault } from './fault.tsx';
import { Home } from './home.tsx';
import { DemoEntry, Workspace } from './workspace.tsx';

const router = createBrowserRouter([
  {
    errorElement: <Fault />,
    children: [
      { path: '/', element: <Home /> },
      { path: '/demo-montage', element: <DemoEntry /> },
      { path: '/montage/:id', element: <Navigate to="bring-in" replace /> },
      { path: '/montage/:id/:station', element: <Workspace /> },
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
]);

createRoot(document.getElementById('root')!).render(<RouterProvider router={router} />);
