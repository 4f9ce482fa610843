import { useCallback, useMemo, useState, type ReactNode } from 'react';
import { Outlet } from 'react-router';
import { changedKeys, keepChangedKeys, withKeys } from '../hands/commands.js';
import { AskedSheet } from './AskedSheet.js';
import { CommandKeys } from './CommandKeys.js';
import { FindControl } from './FindControl.js';
import { HandBar } from './HandBar.js';
import { KeysSheet } from './KeysSheet.js';
import { useAppDispatch, useAppSelector } from '../store/store.js';
import { Tour } from './Tour.js';
import { TopBar } from './TopBar.js';
import { useCommandScene } from './useCommandScene.js';
import { findingSet, keysShownSet, takenInHand } from '../store/viewSlice.js';

/** What stands round every view of a song: the top, the hand bar, and the keys, which act wherever one is. */
export function SongFrame(): ReactNode {
  const dispatch = useAppDispatch();
  const keysShown = useAppSelector((state) => state.view.keysShown);
  const finding = useAppSelector((state) => state.view.finding);
  const [changed, setChanged] = useState(changedKeys);
  const commands = useMemo(() => withKeys(changed), [changed]);
  const scene = useCommandScene();
  const change = useCallback((keys: { readonly [command: string]: string }): void => {
    keepChangedKeys(keys);
    setChanged(keys);
  }, []);
  return (
    <div className="frame">
      <CommandKeys commands={commands} scene={scene} />
      <TopBar />
      <Outlet />
      <Tour />
      <AskedSheet />
      <HandBar />
      {keysShown && <KeysSheet commands={commands} onClose={() => dispatch(keysShownSet(false))} onChange={change} />}
      {finding && (
        <FindControl onClose={() => dispatch(findingSet(false))} onFound={(id) => dispatch(takenInHand(id))} />
      )}
    </div>
  );
}
