import type { ReactNode } from 'react';
import { AsideSheet } from './AsideSheet.js';
import { ChannelSheet } from './ChannelSheet.js';
import { ClearSheet } from './ClearSheet.js';
import { ClipSheet } from './ClipSheet.js';
import { CutShortSheet } from './CutShortSheet.js';
import { NoteSheet, SectionSheet } from './MarkSheets.js';
import { EffectSheet } from './EffectSheet.js';
import { GangSheet } from './GangSheet.js';
import { InsertsSheet } from './InsertsSheet.js';
import { LanesSheet } from './LanesSheet.js';
import { OriginSheet } from './OriginSheet.js';
import { PasteSheet } from './PasteSheet.js';
import { PlaceSheet } from './PlaceSheet.js';
import { PointsSheet } from './PointsSheet.js';
import { SongSheet } from './SongSheet.js';
import { PassListSheet } from './PassListSheet.js';
import { ShiftSheet } from './ShiftSheet.js';
import { SwaySheet } from './SwaySheet.js';
import { TakeSheet } from './TakeSheet.js';
import { ThinSheet } from './ThinSheet.js';
import { VcaSheet } from './VcaSheet.js';
import { WaveSheet } from './WaveSheet.js';
import { WritingSheet } from './WritingSheet.js';
import { useAppDispatch, useAppSelector } from '../store/store.js';
import { askedFor } from '../store/viewSlice.js';

/** The sheet of what is open to be typed into, if anything is. */
export function AskedSheet(): ReactNode {
  const asked = useAppSelector((state) => state.view.asked);
  const dispatch = useAppDispatch();
  const close = (): void => void dispatch(askedFor(null));
  switch (asked?.what) {
    case 'section':
      return <SectionSheet key={asked.t} {...asked} onClose={close} />;
    case 'note':
      return <NoteSheet key={asked.t} {...asked} onClose={close} />;
    case 'clip':
      return <ClipSheet key={`${asked.channel} ${asked.at}`} {...asked} onClose={close} />;
    case 'song':
      return <SongSheet onClose={close} />;
    case 'writing':
      return <WritingSheet onClose={close} />;
    case 'list':
      return <PassListSheet onClose={close} />;
    case 'thin':
      return <ThinSheet onClose={close} />;
    case 'clear':
      return <ClearSheet onClose={close} />;
    case 'wave':
      return <WaveSheet onClose={close} />;
    case 'sway':
      return <SwaySheet onClose={close} />;
    case 'points':
      return <PointsSheet onClose={close} />;
    case 'lanes':
      return <LanesSheet onClose={close} />;
    case 'effect':
      return <EffectSheet onClose={close} />;
    case 'inserts':
      return <InsertsSheet onClose={close} />;
    case 'shift':
      return <ShiftSheet onClose={close} />;
    case 'paste':
      return <PasteSheet onClose={close} />;
    case 'gangs':
      return <GangSheet onClose={close} />;
    case 'vcas':
      return <VcaSheet onClose={close} />;
    case 'channels':
      return <ChannelSheet onClose={close} />;
    case 'origin':
      return <OriginSheet key={asked.id} {...asked} onClose={close} />;
    case 'take':
      return <TakeSheet onClose={close} />;
    case 'aside':
      return <AsideSheet onClose={close} />;
    case 'place':
      return <PlaceSheet key={`${asked.how} ${asked.snapshot}`} {...asked} onClose={close} />;
    case 'cutShort':
      return <CutShortSheet onClose={close} />;
    case undefined:
      return null;
  }
}
