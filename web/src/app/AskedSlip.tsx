import type { ReactNode } from 'react';
import { ClipSlip } from './ClipSlip.js';
import { NoteSlip, SectionSlip } from './MarkSlips.js';
import { SongSlip } from './SongSlip.js';
import { PassListSlip } from './PassListSlip.js';
import { WritingSlip } from './WritingSlip.js';
import { useAppDispatch, useAppSelector } from './store.js';
import { askedFor } from './viewSlice.js';

/** The sheet of what is open to be typed into, if anything is. */
export function AskedSlip(): ReactNode {
  const asked = useAppSelector((state) => state.view.asked);
  const dispatch = useAppDispatch();
  const close = (): void => void dispatch(askedFor(null));
  switch (asked?.what) {
    case 'section':
      return <SectionSlip key={asked.t} {...asked} onClose={close} />;
    case 'note':
      return <NoteSlip key={asked.t} {...asked} onClose={close} />;
    case 'clip':
      return <ClipSlip key={`${asked.channel} ${asked.at}`} {...asked} onClose={close} />;
    case 'song':
      return <SongSlip onClose={close} />;
    case 'writing':
      return <WritingSlip onClose={close} />;
    case 'list':
      return <PassListSlip onClose={close} />;
    case undefined:
      return null;
  }
}
