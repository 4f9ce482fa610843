import { useMemo, useState, type ReactNode } from 'react';
import { Button, Group, SegmentedControl, Text } from '@mantine/core';
import { SCOPE_NAMES } from '../hands/mendScopes.js';
import { freshSpans } from '../hands/carrying.js';
import { pickedThere } from '../hands/picking.js';
import { THIN_SCOPES, TOLERANCES, thinEdit, thinTargets, thinWords, type ThinScope } from '../hands/thinning.js';
import { NumberField } from '../parts/NumberField.js';
import { Sheet } from '../parts/Sheet.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { didSomething } from '../store/viewSlice.js';
import { standsLow } from './standsLow.js';
import { useDraft } from './useDraft.js';
import { useWorkedOut } from './useWorkedOut.js';

const CLOSENESS = [
  { value: String(TOLERANCES.fine), label: 'Fine' },
  { value: String(TOLERANCES.medium), label: 'Medium' },
  { value: String(TOLERANCES.coarse), label: 'Coarse' },
];
/** Shares of the throw are typed in per cent. */
const PER_CENT = 100;
const WORKING = 'What would remain is being worked out…';

/** How closely a curve is kept: three usual ways, or typed. */
function Closeness({
  tolerance,
  onTolerance,
}: {
  readonly tolerance: number;
  readonly onTolerance: (tolerance: number) => void;
}): ReactNode {
  return (
    <>
      <SegmentedControl
        size="xs"
        aria-label="How closely"
        value={CLOSENESS.find(({ value }) => Number(value) === tolerance)?.value ?? ''}
        onChange={(value) => onTolerance(Number(value))}
        data={CLOSENESS}
      />
      <NumberField
        size="sm"
        w={150}
        label="Within, % of the throw"
        value={Number((tolerance * PER_CENT).toFixed(2))}
        step={0.1}
        min={0.01}
        max={50}
        decimalScale={2}
        onValue={(share) => onTolerance(share / PER_CENT)}
      />
    </>
  );
}

/** Fewer points: what would remain and how far off it would be is said, drawn and heard before it is kept. */
export function ThinSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const song = useAppSelector((state) => state.song.song)!;
  const { format, ...view } = useViewParts('inHand', 'chosen', 'range', 'picked', 'pass', 'spanChanges', 'format');
  const { inHand, range, picked } = view;
  const [scope, setScope] = useState<ThinScope>(picked ? 'picked' : range ? 'range' : 'lane');
  // What it is about stays in sight: where its row stands low, the sheet stands high.
  const [isHigh] = useState(() => standsLow(inHand));
  const [tolerance, setTolerance] = useState<number>(TOLERANCES.medium);
  const targets = useMemo(() => {
    const { chosen, pass, spanChanges } = view;
    const spans = picked?.isPass && pass?.stands ? freshSpans(pass.receipt, spanChanges) : null;
    return thinTargets(song, scope, { inHand, chosen, range, onView: [], picked: pickedThere(song, picked), spans });
    // oxlint-disable-next-line react/exhaustive-deps
  }, [song, scope, inHand, view.chosen, range, picked, view.pass, view.spanChanges]);
  const edit = useMemo(() => thinEdit(targets, tolerance), [targets, tolerance]);
  const controls = useMemo(() => targets.map(({ control }) => control), [targets]);
  const isReady = useWorkedOut(song, edit, controls);
  const told = useMemo(
    () => (isReady ? thinWords(song, targets, edit, format) : null),
    [isReady, song, targets, edit, format],
  );
  const kept = useDraft(edit, isReady);
  const keep = (): void => {
    if (!edit) return;
    // A quick hand need not wait for the words.
    const words = told ?? thinWords(song, targets, edit, format);
    if (scope === 'picked' && picked?.isPass) {
      // What the pass wrote stays what the pass wrote.
      open.drafting.drop();
      if (open.control.mendPass(edit, 0).changed.length)
        dispatch(didSomething(`What the pass wrote thinned: ${words.counts}`));
    } else kept(`Thinned: ${words.counts}`);
    onClose();
  };
  return (
    <Sheet name="Thin" className={isHigh ? 'sheet-high' : ''} onClose={onClose} onEnter={keep}>
      <Group gap="md" align="flex-end" wrap="nowrap">
        <SegmentedControl
          size="xs"
          aria-label="What is thinned"
          value={scope}
          onChange={(value) => setScope(value as ThinScope)}
          data={THIN_SCOPES.map((one) => ({
            value: one,
            label: SCOPE_NAMES[one],
            disabled: (one === 'range' && !range) || (one === 'picked' && !picked),
          }))}
        />
        <Closeness tolerance={tolerance} onTolerance={setTolerance} />
        <Button size="xs" onClick={keep} disabled={!edit}>
          Thin
        </Button>
      </Group>
      <Text fz="sm" mt={8} role="status" data-testid="thin-says">
        {told ? `${told.counts} ${told.worst}` : WORKING}
      </Text>
    </Sheet>
  );
}
