import type { ReactNode } from 'react';
import { UnstyledButton } from '@mantine/core';
import { CONTROL_KINDS } from '@sure-hand/core/song';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Tip } from '../parts/Tip.js';
import { useAppDispatch, useOfSong } from '../store/store.js';
import { askedFor } from '../store/viewSlice.js';

/** The mode that stands in for every channel's, and whether the whole song is parked: both light up where they stand. */
export function WritingState(): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const { deskMode, writeScope, parked } = useOfSong('settings').settings;
  const isNarrow = writeScope.length < CONTROL_KINDS.length;
  const scope = isNarrow ? `; passes write ${writeScope.join(', ') || 'nothing'} only` : '';
  const modes = deskMode ? `Every channel: ${deskMode}` : 'Modes: per channel';
  return (
    <>
      <Tip label={`How passes write${scope} (W)`}>
        <UnstyledButton
          className={deskMode || isNarrow ? 'top-switch top-modes is-on' : 'top-switch top-modes'}
          aria-label={`${modes}${scope}`}
          onClick={() => dispatch(askedFor({ what: 'writing' }))}
        >
          {modes}
        </UnstyledButton>
      </Tip>
      <Tip
        label={
          parked
            ? 'Every curve is parked: none is read, none is written. Click to read them again (Alt+Shift+K)'
            : 'Park the whole song: no curve is read, all are kept (Alt+Shift+K)'
        }
      >
        <UnstyledButton
          className={parked ? 'top-switch top-parked is-parked' : 'top-switch top-parked'}
          aria-label={parked ? 'Song parked' : 'Park the song'}
          aria-pressed={parked}
          onClick={() => control.toggleParkSong()}
        >
          {parked ? 'Parked' : 'Park'}
        </UnstyledButton>
      </Tip>
    </>
  );
}
