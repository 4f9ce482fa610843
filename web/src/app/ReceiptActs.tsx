import type { ReactNode } from 'react';
import { Button, Group } from '@mantine/core';
import type { LaneReceipt, Receipt } from '@sure-hand/core/song';
import { carryOn } from '../hands/commandScene.js';
import { fetchPass } from '../song/songApi.js';
import { troubleCame } from '../song/songSlice.js';
import { useHands } from './openSong.js';
import { songSync, store, useAppSelector } from './store.js';

/** What can still be done with one lane of the last pass: undo it alone, or carry it on. */
export function ReceiptActs({ lane, receipt }: { lane: LaneReceipt; receipt: Receipt }): ReactNode {
  const { control, id } = useHands();
  const carries = useAppSelector((state) => state.view.carries);
  const range = useAppSelector((state) => state.view.range);
  const undoLane = async (): Promise<void> => {
    try {
      await songSync.flush();
      const pass = await fetchPass(id, store.getState().song.lastPass);
      const lanes = pass.lanes.filter((one) => one.control === lane.control);
      control.bringBack(pass.number, lanes, 'before', null);
    } catch (error) {
      store.dispatch(troubleCame((error as Error).message));
    }
  };
  const carry = (): void =>
    carryOn(
      {
        song: store.getState().song.song!,
        control,
        receipt,
        carries,
        inHand: lane.control,
        range,
        say: (sentence) => void store.dispatch(troubleCame(sentence)),
      },
      1,
    );
  return (
    <Group gap={4} wrap="nowrap" justify="flex-end">
      <Button size="compact-xs" variant="default" onClick={() => void undoLane()}>
        Undo this lane
      </Button>
      <Button size="compact-xs" variant="default" onClick={carry}>
        Carry on
      </Button>
    </Group>
  );
}
