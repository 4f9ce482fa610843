import {
  startTransition,
  createContext,
  useContext,
  useEffect,
  useRef,
  useState,
  useSyncExternalStore,
  type ReactNode,
} from 'react';
import { Button, Center, Group, Loader, Stack, Text } from '@mantine/core';
import { Link, useParams } from 'react-router';
import { songLeft } from '../song/outboxSlice.js';
import { songClosed, songFailed } from '../song/songSlice.js';
import { songSync, store, useSongParts } from '../store/store.js';
import { openSong, type OpenSong } from './openSong.js';
import { restoreView } from './restoreView.js';

const Context = createContext<OpenSong | null>(null);

/** The open song; only inside {@link OpenSongProvider}. */
export function useOpenSong(): OpenSong {
  const open = useContext(Context);
  if (!open) throw new Error('no song is open here');
  return open;
}

/** Draws again whenever a hand, a span or the transport has changed: with every move. */
export function useHands(): OpenSong {
  const open = useOpenSong();
  useSyncExternalStore(open.subscribe, open.version);
  return open;
}

/** Something that hands change: draws again only where it has become another. What is read must be the same while nothing changes. */
export function useOfHands<T>(read: (open: OpenSong) => T): T {
  const open = useOpenSong();
  return useSyncExternalStore(open.subscribe, () => read(open));
}

function Waiting({ what }: { what: string }): ReactNode {
  return (
    <Center h="100vh">
      <Stack align="center">
        <Loader />
        <Text c="dimmed">{what}</Text>
      </Stack>
    </Center>
  );
}

function Failed({ sentence, again }: { sentence: string; again: () => void }): ReactNode {
  return (
    <Center h="100vh">
      <Stack align="center" maw={520} ta="center">
        <Text fz="lg">The song could not be opened.</Text>
        <Text c="dimmed">{sentence}</Text>
        <Group>
          <Button variant="default" onClick={again}>
            Try again
          </Button>
          <Button component={Link} to="/" variant="default">
            Back to the songs
          </Button>
        </Group>
      </Stack>
    </Center>
  );
}

/** Opens the song that the address names, for all its views. */
export function OpenSongProvider({ children }: { children: ReactNode }): ReactNode {
  const id = Number(useParams().id);
  const [open, setOpen] = useState<OpenSong | null>(null);
  const { status, trouble } = useSongParts('status', 'trouble');
  const closing = useRef<() => void>(() => undefined);
  const [tries, setTries] = useState(0);
  useEffect(() => {
    let left = false;
    void (async () => {
      await songSync.open(id);
      const { song } = store.getState().song;
      if (!song || left) return;
      restoreView(id, song);
      try {
        const opened = openSong(id, song);
        closing.current = opened.close;
        // All of the frame is much to draw at once: it is drawn between what else the page has to do.
        startTransition(() => setOpen(opened.open));
      } catch (error) {
        store.dispatch(songFailed((error as Error).message));
      }
    })();
    return () => {
      left = true;
      closing.current();
      closing.current = () => undefined;
      setOpen(null);
      const { song } = store.getState().song;
      if (song) store.dispatch(songLeft({ id, name: song.name }));
      store.dispatch(songClosed());
      songSync.close(id);
    };
  }, [id, tries]);
  if (status === 'failed') return <Failed sentence={trouble ?? ''} again={() => setTries(tries + 1)} />;
  if (!open) return <Waiting what="Opening the song…" />;
  return <Context value={open}>{children}</Context>;
}
