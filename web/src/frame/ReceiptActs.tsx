import type { ReactNode } from 'react';
import { Button, Group } from '@mantine/core';
import type { LaneReceipt } from '@sure-hand/core/edits';
import { carryOn } from '../hands/commandScene.js';
import { mendScene } from '../open/mendScene.js';
import { fetchPass } from '../song/songApi.js';
import { troubleCame } from '../song/songSlice.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { songSync, store } from '../store/store.js';
import type { LastPass } from '../store/viewSlice.js';

/** What can still be done with one lane of the last pass: undo it alone, or carry it on. */
export function ReceiptActs({ lane, pass }: { lane: LaneReceipt; pass: LastPass }): ReactNode {
  const open = useOpenSong();
  const { control, id } = open;
  const undoLane = async (): Promise<void> => {
    try {
      await songSync.flush();
      // The very pass that the receipt is of: another page may have made one since.
      const number = pass.number ?? store.getState().view.pass?.number;
      if (number === null || number === undefined)
        throw new Error('The pass is not in the log yet; try again once the server has it.');
      const logged = await fetchPass(id, number);
      const lanes = logged.lanes.filter((one) => one.control === lane.control);
      control.bringBack(number, lanes, 'before', null);
    } catch (error) {
      store.dispatch(troubleCame((error as Error).message));
    }
  };
  const carry = (): void => carryOn({ ...mendScene(open), inHand: lane.control, picked: null }, 1);
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
