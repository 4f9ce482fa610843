import { startTransition, type ReactNode } from 'react';
import { createRoot } from 'react-dom/client';
import { MantineProvider, Text, Title } from '@mantine/core';
import { Provider } from 'react-redux';
import { Link, Outlet, RouterProvider, createBrowserRouter, Navigate } from 'react-router';
import { cssVariables, theme } from './parts/look.js';
import { OpenSongProvider } from './open/OpenSongProvider.js';
import { whyNotHere } from './open/whyNotHere.js';
import { SongFrame } from './frame/SongFrame.js';
import { keepOutboxGoing, store, useAppSelector } from './store/store.js';
import { fetchAhead, laterView } from './frame/laterView.js';
import { Ride } from './views/ride/Ride.js';

// Songs open with Ride: what other views need besides comes after that.
const SongList = laterView(() => import('./views/songs/SongList.js').then((its) => its.SongList));
const NewSong = laterView(() => import('./views/songs/NewSong.js').then((its) => its.NewSong));
const Desk = laterView(() => import('./views/desk/Desk.js').then((its) => its.Desk));
const Passes = laterView(() => import('./views/passes/Passes.js').then((its) => its.Passes));
const Snapshots = laterView(() => import('./views/snapshots/Snapshots.js').then((its) => its.Snapshots));
const Guards = laterView(() => import('./views/guards/Guards.js').then((its) => its.Guards));
const Files = laterView(() => import('./views/files/Files.js').then((its) => its.Files));

function Root(): ReactNode {
  const scheme = useAppSelector((state) => state.view.scheme);
  return (
    <MantineProvider
      theme={theme}
      cssVariablesResolver={cssVariables}
      forceColorScheme={scheme === 'lamp' ? 'dark' : 'light'}
    >
      <Outlet />
    </MantineProvider>
  );
}

function OpenedSong(): ReactNode {
  return (
    <OpenSongProvider>
      <SongFrame />
    </OpenSongProvider>
  );
}

function Lost(): ReactNode {
  return (
    <main className="songs">
      There is nothing at this address. <Link to="/">To the songs</Link>
    </main>
  );
}

const router = createBrowserRouter([
  {
    element: <Root />,
    children: [
      { path: '/', element: <SongList /> },
      { path: '/new', element: <NewSong /> },
      {
        path: '/songs/:id',
        element: <OpenedSong />,
        children: [
          { index: true, element: <Navigate to="ride" replace /> },
          { path: 'ride', element: <Ride /> },
          { path: 'desk', element: <Desk /> },
          { path: 'passes', element: <Passes /> },
          { path: 'snapshots', element: <Snapshots /> },
          { path: 'guards', element: <Guards /> },
          { path: 'files', element: <Files /> },
        ],
      },
      { path: '*', element: <Lost /> },
    ],
  },
]);

/** Says why nothing can be played in this page. */
function NotHere({ why }: { readonly why: string }): ReactNode {
  return (
    <MantineProvider theme={theme} cssVariablesResolver={cssVariables} forceColorScheme="dark">
      <main className="songs not-here" role="alert">
        <Title order={1}>Sure Hand can’t start here</Title>
        <Text>{why}</Text>
      </main>
    </MantineProvider>
  );
}

/** Puts the program into the page. Where nothing can be played in it, it says why instead. */
export function showApp(): void {
  const why = whyNotHere();
  const page = createRoot(document.getElementById('root')!);
  if (why !== null) return page.render(<NotHere why={why} />);
  keepOutboxGoing();
  // In slices: whatever else comes meanwhile need not wait for all of it.
  startTransition(() =>
    page.render(
      <Provider store={store}>
        <RouterProvider router={router} />
      </Provider>,
    ),
  );
  const ahead = (): void => fetchAhead([Desk, Passes, Snapshots, Guards, Files, SongList, NewSong]);
  if (document.readyState === 'complete') ahead();
  else addEventListener('load', ahead);
}
