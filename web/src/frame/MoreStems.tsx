import { useState, useSyncExternalStore, type ReactNode } from 'react';
import { Button, Group, Progress, Text } from '@mantine/core';
import { useDropzone } from 'react-dropzone';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch } from '../store/store.js';
import { didSomething } from '../store/viewSlice.js';

/** Where WAV files are dropped to become tracks of the open song: how far they are, and a way to give them up. */
export function MoreStems(): ReactNode {
  const { stems } = useOpenSong();
  const dispatch = useAppDispatch();
  const coming = useSyncExternalStore(
    (listener) => stems.subscribe(listener),
    () => stems.coming,
  );
  const [says, say] = useState<string | null>(null);
  const onDrop = (files: readonly File[]): void => {
    say(null);
    stems.take(files).then(
      ({ tracks, sentence }) => {
        dispatch(didSomething(`${tracks} ${tracks === 1 ? 'track' : 'tracks'} added from what was dropped.`));
        say(sentence && `Left out: ${sentence}`);
      },
      (error: Error) => say(error.name === 'AbortError' ? 'Given up; nothing was added.' : error.message),
    );
  };
  const { getRootProps, getInputProps, isDragActive } = useDropzone({ onDrop, disabled: coming !== null });
  return (
    <>
      {coming ? (
        <Group gap="sm" mt={8} wrap="nowrap" role="group" aria-label="Stems on their way">
          <Text fz="sm" w={200} truncate>
            {coming.doing}
          </Text>
          <Progress value={100 * coming.share} style={{ flex: 1 }} aria-label="Progress" />
          <Button size="compact-xs" variant="default" onClick={() => stems.giveUp()}>
            Cancel
          </Button>
        </Group>
      ) : (
        <div {...getRootProps()} className={isDragActive ? 'drop-stems is-over' : 'drop-stems'}>
          <input {...getInputProps()} aria-label="More stems" />
          Drop WAV files here, or press to choose them: each becomes a track. The song goes on meanwhile.
        </div>
      )}
      {says && (
        <Text fz="sm" role="alert" mt={4}>
          {says}
        </Text>
      )}
    </>
  );
}
