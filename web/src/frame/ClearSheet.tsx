import { useMemo, useState, type ReactNode } from 'react';
import { Button, Group, SegmentedControl, Text } from '@mantine/core';
import { MEND_SCOPES, SCOPE_NAMES, clearEdit, clearWords, type MendScope } from '../hands/mendScopes.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector, useViewParts } from '../store/store.js';
import { standsLow } from './standsLow.js';
import { useDraft } from './useDraft.js';

/** Points taken away by scope: how many of which lanes is said, drawn and heard before it is done. */
export function ClearSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { onView } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand, chosen, range } = useViewParts('inHand', 'chosen', 'range');
  const [isHigh] = useState(() => standsLow(inHand));
  const [scope, setScope] = useState<MendScope>(range ? 'range' : 'lane');
  const [shown] = useState(() => [...onView.current]);
  const scene = useMemo(() => ({ inHand, chosen, range, onView: shown }), [inHand, chosen, range, shown]);
  const edit = useMemo(() => clearEdit(song, scope, scene), [song, scope, scene]);
  const words = useMemo(() => clearWords(song, scope, scene), [song, scope, scene]);
  const kept = useDraft(edit);
  const keep = (): void => {
    if (!edit) return;
    kept(words.did);
    onClose();
  };
  return (
    <Sheet name="Clear points" className={isHigh ? 'sheet-high' : ''} onClose={onClose} onEnter={keep}>
      <Group gap="md" align="center" wrap="nowrap">
        <SegmentedControl
          size="xs"
          aria-label="What is cleared"
          value={scope}
          onChange={(value) => setScope(value as MendScope)}
          data={MEND_SCOPES.map((one) => ({
            value: one,
            label: SCOPE_NAMES[one],
            disabled: one === 'range' && !range,
          }))}
        />
        <Button size="xs" onClick={keep} disabled={!edit}>
          Clear
        </Button>
      </Group>
      <Text fz="sm" mt={8} maw={560} role="status" data-testid="clear-says">
        {words.will}
      </Text>
    </Sheet>
  );
}
