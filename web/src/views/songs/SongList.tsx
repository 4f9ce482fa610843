import { useEffect, useState, type ReactNode } from 'react';
import { Alert, Button, Loader, Stack, Table, Text, Title } from '@mantine/core';
import { Link } from 'react-router';
import { printClock } from '@sure-hand/core/time';
import type { ListedSong } from '@sure-hand/server';
import { listSongs } from '../../song/songApi.js';

/** Every song there is, the last changed first. */
export function SongList(): ReactNode {
  const [songs, setSongs] = useState<ListedSong[] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [tries, setTries] = useState(0);
  useEffect(() => {
    let left = false;
    listSongs().then(
      (list) => !left && setSongs(list),
      (error: Error) => !left && setTrouble(error.message),
    );
    return () => {
      left = true;
    };
  }, [tries]);
  const again = (): void => {
    setTrouble(null);
    setTries((n) => n + 1);
  };
  return (
    <main className="songs">
      <Title order={1} fz={28}>
        Sure Hand
      </Title>
      <Text c="dimmed" mb="lg">
        Songs on this machine
      </Text>
      {trouble ? (
        <Alert color="hand" title="The songs can’t be shown" variant="outline">
          <Stack align="flex-start" gap="xs">
            {trouble} Start it with npm start, then try again.
            <Button size="xs" variant="default" onClick={again}>
              Try again
            </Button>
          </Stack>
        </Alert>
      ) : songs ? (
        <Songs songs={songs} />
      ) : (
        <Loader color="hand" />
      )}
    </main>
  );
}

function Songs({ songs }: { songs: readonly ListedSong[] }): ReactNode {
  if (!songs.length)
    return <Text>There is no song here. A new start with an empty data folder makes the demo song.</Text>;
  return (
    <Table verticalSpacing="sm" highlightOnHover>
      <Table.Thead>
        <Table.Tr>
          <Table.Th>Song</Table.Th>
          <Table.Th ta="right">Length</Table.Th>
          <Table.Th ta="right">Tracks</Table.Th>
          <Table.Th ta="right">Passes</Table.Th>
          <Table.Th ta="right">Last changed</Table.Th>
        </Table.Tr>
      </Table.Thead>
      <Table.Tbody>
        {songs.map((song) => (
          <Table.Tr key={song.id}>
            <Table.Td>
              <Text component={Link} to={`/songs/${song.id}/ride`} fw={700} className="song-link">
                {song.name}
              </Text>
            </Table.Td>
            <Table.Td className="figures">{printClock(song.length).replace(/\.\d+$/, '')}</Table.Td>
            <Table.Td className="figures">{song.tracks}</Table.Td>
            <Table.Td className="figures">{song.passes}</Table.Td>
            <Table.Td className="figures">
              {new Date(song.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
            </Table.Td>
          </Table.Tr>
        ))}
      </Table.Tbody>
    </Table>
  );
}
