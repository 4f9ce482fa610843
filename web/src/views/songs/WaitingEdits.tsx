import { useState, type ReactNode } from 'react';
import { Alert, Button, Group, Text } from '@mantine/core';
import type { ListedSong } from '@sure-hand/server';
import { refusalsSeen } from '../../song/outboxSlice.js';
import { outbox, useAppDispatch, useAppSelector } from '../../store/store.js';

/** Waiting edits are given up only when that is said twice: nothing brings them back. */
function GiveUp({ id, count }: { id: number; count: number }): ReactNode {
  const [isAsked, setAsked] = useState(false);
  const them = count === 1 ? 'it' : 'them';
  if (!isAsked)
    return (
      <Button size="xs" variant="subtle" color="gray" onClick={() => setAsked(true)}>
        Give {them} up…
      </Button>
    );
  return (
    <Group gap="xs" wrap="nowrap">
      <Button size="xs" color="hand" variant="outline" onClick={() => outbox.giveUp(id)}>
        Give {them} up for good
      </Button>
      <Button size="xs" variant="default" autoFocus onClick={() => setAsked(false)}>
        Keep {them}
      </Button>
    </Group>
  );
}

/** How many songs’ edits wait for the server, and what it said no to while no view was there to say it. */
export function WaitingEdits({ songs }: { songs: readonly ListedSong[] | null }): ReactNode {
  const { waiting, refused, names } = useAppSelector((state) => state.outbox);
  const dispatch = useAppDispatch();
  const nameOf = (id: number): string => songs?.find((song) => song.id === id)?.name ?? names[id] ?? `Song ${id}`;
  const counts = Object.entries(waiting).map(([id, count]) => ({ id: Number(id), count }));
  return (
    <>
      {counts.map(({ id, count }) => (
        <Alert key={id} color="gray" variant="outline" mb="md" role="status" data-testid={`waiting-${id}`}>
          <Group justify="space-between" wrap="nowrap">
            <Text fz="sm">
              {nameOf(id)}: {count} {count === 1 ? 'edit waits' : 'edits wait'} for the server, kept in this browser and
              sent as soon as it can be reached.
            </Text>
            <GiveUp id={id} count={count} />
          </Group>
        </Alert>
      ))}
      {refused.map(({ songId, sentence }, i) => (
        <Alert
          key={`${songId} ${i}`}
          color="hand"
          variant="outline"
          mb="md"
          role="status"
          title={nameOf(songId)}
          withCloseButton
          onClose={() => dispatch(refusalsSeen(songId))}
        >
          {sentence}
        </Alert>
      ))}
    </>
  );
}
