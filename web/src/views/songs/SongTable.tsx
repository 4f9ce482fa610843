import { asideCount } from '../../hands/asideWords.js';
import { asideCountOf } from '../../store/asideShelf.js';
import { useState, type ReactNode } from 'react';
import { ActionIcon, Menu, Table, Text, TextInput } from '@mantine/core';
import { IconDotsVertical } from '@tabler/icons-react';
import { Link } from 'react-router';
import { printClock } from '@sure-hand/core/time';
import type { ListedSong } from '@sure-hand/server';
import { duplicateSong, removeSong, renameSong, restoreSong, zipUrl } from '../../song/songApi.js';

/** What was done to the list, told above it; with a way back where there is one. */
export type Done = { readonly sentence: string; readonly undo: (() => Promise<void>) | null };

type SongsProps = {
  readonly songs: readonly ListedSong[];
  readonly act: (what: () => Promise<Done | null>) => Promise<void>;
};

/** Every song, and what can be done to each. */
export function SongTable({ songs, act }: SongsProps): ReactNode {
  if (!songs.length)
    return <Text>No song is in the list. Make one of your own stems, or open one that was saved.</Text>;
  return (
    <Table verticalSpacing="sm" highlightOnHover>
      <Table.Thead>
        <Table.Tr>
          <Table.Th>Song</Table.Th>
          <Table.Th ta="right">Length</Table.Th>
          <Table.Th ta="right">Tracks</Table.Th>
          <Table.Th ta="right">Passes</Table.Th>
          <Table.Th ta="right">Last changed</Table.Th>
          <Table.Th w={40} aria-label="What can be done" />
        </Table.Tr>
      </Table.Thead>
      <Table.Tbody>
        {songs.map((song) => (
          <SongRow key={song.id} song={song} act={act} />
        ))}
      </Table.Tbody>
    </Table>
  );
}

type SongProps = Omit<SongsProps, 'songs'> & { readonly song: ListedSong };

function SongRow({ song, act }: SongProps): ReactNode {
  const [renaming, rename] = useState(false);
  return (
    <Table.Tr>
      <Table.Td className="song-cell">
        {renaming ? (
          <Renaming song={song} act={act} onEnd={() => rename(false)} />
        ) : (
          <Text
            component={Link}
            to={`/songs/${song.id}/ride`}
            fw={700}
            className="song-link"
            truncate
            title={song.name}
          >
            {song.name}
          </Text>
        )}
        <HeldAside song={song} />
      </Table.Td>
      <Table.Td className="figures">{printClock(song.length).replace(/\.\d+$/, '')}</Table.Td>
      <Table.Td className="figures">{song.tracks}</Table.Td>
      <Table.Td className="figures">{song.passes}</Table.Td>
      <Table.Td className="figures">
        {new Date(song.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
      </Table.Td>
      <Table.Td p={0}>
        <SongMenu song={song} act={act} onRename={() => rename(true)} />
      </Table.Td>
    </Table.Tr>
  );
}

/** That values are held aside in a song, which no pass has and this browser keeps. */
function HeldAside({ song }: { song: ListedSong }): ReactNode {
  const [count] = useState(() => asideCountOf(song.id));
  if (!count) return null;
  return (
    <Text fz="xs" className="aside-held" data-testid={`aside-of-${song.id}`}>
      {asideCount(count)}, written nowhere yet; this browser keeps {count === 1 ? 'it' : 'them'}.
    </Text>
  );
}

function SongMenu({ song, act, onRename }: SongProps & { readonly onRename: () => void }): ReactNode {
  const { id, name } = song;
  const copy = async (): Promise<Done> => {
    const made = await duplicateSong(id);
    return { sentence: `${name} was duplicated.`, undo: () => removeSong(made.id) };
  };
  const remove = async (): Promise<Done> => {
    await removeSong(id);
    return {
      sentence: `${name} was removed. It is kept for a week, and can be put back until you leave this page.`,
      undo: () => restoreSong(id),
    };
  };
  return (
    // The field that Rename opens takes the focus: the menu does not take it back.
    <Menu position="bottom-end" returnFocus={false}>
      <Menu.Target>
        <ActionIcon variant="subtle" color="gray" aria-label={`What can be done with ${name}`}>
          <IconDotsVertical size={16} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={onRename}>Rename</Menu.Item>
        <Menu.Item onClick={() => void act(copy)}>Duplicate</Menu.Item>
        <Menu.Item component="a" href={zipUrl(id)} download>
          Save with its audio (zip)
        </Menu.Item>
        <Menu.Divider role="separator" />
        <Menu.Item onClick={() => void act(remove)}>Remove</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

function Renaming({ song, act, onEnd }: SongProps & { readonly onEnd: () => void }): ReactNode {
  const keep = (typed: string): void => {
    onEnd();
    const name = typed.trim();
    if (!name || name === song.name) return;
    void act(async () => {
      await renameSong(song.id, name);
      return { sentence: `${song.name} is now ${name}.`, undo: () => renameSong(song.id, song.name) };
    });
  };
  return (
    <TextInput
      autoFocus
      size="xs"
      maxLength={200}
      aria-label={`Name of ${song.name}`}
      defaultValue={song.name}
      onFocus={(event) => event.currentTarget.select()}
      onBlur={(event) => keep(event.currentTarget.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') onEnd();
      }}
    />
  );
}
