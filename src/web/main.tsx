/** The page begins here. */
import './zod.js';
import { setNonce } from 'get-nonce';
import { createRoot } from 'react-dom/client';
import { RouterProvider, createBrowserRouter } from 'react-router';
import { LibraryScreen } from './library/LibraryScreen.js';
import { NotFound } from './NotFound.js';
import { ScreenStopped } from './ui/Guarded.js';
import './styles.css';

// Menus and dialogs add styles of their own; the content security policy lets in those with this page's nonce.
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content;
if (nonce) setNonce(nonce);

const screens = [
  { path: '/', hydrateFallbackElement: <></>, element: <LibraryScreen /> },
  // The bench brings three.js along: it is loaded when it is first needed.
  {
    path: '/effects/:id/:panel?',
    hydrateFallbackElement: <></>,
    lazy: async () => ({ Component: (await import('./bench/BenchScreen.js')).BenchScreen }),
  },
  {
    path: '/stages',
    hydrateFallbackElement: <></>,
    lazy: async () => ({ Component: (await import('./room/StagesScreen.js')).StagesScreen }),
  },
  {
    path: '/stages/:id',
    hydrateFallbackElement: <></>,
    lazy: async () => ({ Component: (await import('./room/StageRoom.js')).StageRoom }),
  },
  { path: '*', element: <NotFound /> },
];
// What no panel of a screen has caught ends with that screen.
const router = createBrowserRouter(screens.map((screen) => ({ ...screen, errorElement: <ScreenStopped /> })));

// Where the browser allows it, the application opens while its server is stopped.
if (import.meta.env.PROD) void navigator.serviceWorker?.register('/sw.js').catch(() => undefined);

createRoot(document.getElementById('root')!).render(<RouterProvider router={router} />);
