import { useMemo, useState, type ComponentProps, type ReactNode } from 'react';
import { Button, Group, SegmentedControl, Text, TextInput } from '@mantine/core';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { controlOf, layerScale } from '@sure-hand/core/song';
import { parseValue } from '@sure-hand/core/units';
import { pointsMeant, type MendScene } from '../hands/mending.js';
import { amountOf, liftEdit, moveEdit, passMended, scaleEdit } from '../hands/moving.js';
import { countPicked, lanesWords, layerOf, pickedMoved, pointsWords, togetherWith } from '../hands/picking.js';
import { mendScene } from '../open/mendScene.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { NumberField } from '../parts/NumberField.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { liftEdgeSet, pointsPicked } from '../store/viewSlice.js';
import { standsLow } from './standsLow.js';
import { useDraft } from './useDraft.js';

type How = 'move' | 'scale' | 'lift';
type Asked = { readonly ms: number; readonly percent: number; readonly scale: number; readonly pivot: string };

/** How far points may be moved by numbers: a day either way. */
const MOST_MS = 24 * 3600 * 1000;
const Typed = (props: ComponentProps<typeof NumberField>): ReactNode => (
  <NumberField w={120} decimalScale={3} {...props} />
);

/** The edit that is asked for by numbers; null where there is nothing it would be about. */
function editOf(scene: MendScene, how: How, asked: Asked, pivot: number | undefined): Edit | null {
  const { song, range, inHand, chosen, liftEdge } = scene;
  if (how === 'lift') {
    if (!range || !inHand || !asked.percent) return null;
    const lanes = togetherWith(inHand, chosen).map((id) => layerOf(song, id));
    return liftEdit(song, lanes, range, { travel: clampShare(asked.percent), edge: liftEdge });
  }
  const points = pointsMeant(scene);
  if (!points) return null;
  if (how === 'scale') return asked.scale === 100 ? null : scaleEdit(song, points, asked.scale / 100, pivot);
  const by = { t: asked.ms / 1000, travel: clampShare(asked.percent) };
  return by.t || by.travel ? moveEdit(scene, points, by) : null;
}

const clampShare = (percent: number): number => Math.min(1, Math.max(-1, percent / 100));

/** Points moved or scaled, or a range lifted, by numbers: drawn and heard before it is kept. */
export function ShiftSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const song = useAppSelector((state) => state.song.song)!;
  const view = useViewParts('inHand', 'chosen', 'range', 'picked', 'liftEdge', 'spanChanges');
  const [isHigh] = useState(() => standsLow(view.inHand));
  const [how, setHow] = useState<How>(view.picked || !view.range ? 'move' : 'lift');
  const [asked, setAsked] = useState<Asked>({ ms: 0, percent: 0, scale: 100, pivot: '' });
  const scale = view.inHand ? layerScale(controlOf(song, view.inHand), layerOf(song, view.inHand).layer) : null;
  const pivot = scale && asked.pivot.trim() !== '' ? parseValue(scale, asked.pivot) : null;
  const scene = useMemo(() => ({ ...mendScene(open), song, ...view }), [open, song, view]);
  const edit = useMemo(
    () => (pivot && !pivot.ok ? null : editOf(scene, how, asked, pivot?.ok ? pivot.value : undefined)),
    // The pivot is what was typed.
    // oxlint-disable-next-line react/exhaustive-deps
    [scene, how, asked],
  );
  const kept = useDraft(edit);
  const points = pointsMeant(scene);
  const says = saysOf(scene, how, edit, pivot && !pivot.ok ? pivot.sentence : null);
  const keep = (): void => {
    if (!edit) return;
    const { song: after } = applyEdit(song, edit);
    if (how === 'move' && scene.picked?.isPass) {
      open.drafting.drop();
      passMended(scene, edit, { t: asked.ms / 1000, travel: asked.percent / 100 }, says);
    } else kept(says);
    if (how === 'move' && points && scene.picked && !scene.picked.isPass)
      dispatch(pointsPicked(pickedMoved(song, after, points)));
    onClose();
  };
  const ways = [
    { value: 'move', label: 'Move', disabled: !points },
    { value: 'scale', label: 'Scale', disabled: !points },
    { value: 'lift', label: 'Lift the range', disabled: !view.range },
  ];
  return (
    <Sheet name="Move, scale, lift" className={isHigh ? 'sheet-high' : ''} onClose={onClose} onEnter={keep}>
      <Group gap="sm" align="flex-end" wrap="nowrap">
        <SegmentedControl
          size="xs"
          aria-label="What is done"
          value={how}
          onChange={(value) => setHow(value as How)}
          data={ways}
        />
        <ShiftFields how={how} asked={asked} onChange={(changes) => setAsked((was) => ({ ...was, ...changes }))} />
        <Button size="xs" onClick={keep} disabled={!edit}>
          Keep
        </Button>
      </Group>
      <Text fz="sm" mt={8} maw={620} role="status" data-testid="shift-says">
        {says}
      </Text>
    </Sheet>
  );
}

function ShiftFields({
  how,
  asked,
  onChange,
}: {
  how: How;
  asked: Asked;
  onChange: (changes: Partial<Asked>) => void;
}): ReactNode {
  const dispatch = useAppDispatch();
  const { liftEdge } = useViewParts('liftEdge');
  const setEdge = (ms: number): void => void dispatch(liftEdgeSet(ms / 1000));
  const up = (percent: number): void => onChange({ percent });
  if (how === 'scale')
    return (
      <>
        <Typed
          label="To, %"
          value={asked.scale}
          min={-1000}
          max={1000}
          step={5}
          onValue={(to) => onChange({ scale: to })}
        />
        <TextInput
          size="xs"
          w={110}
          label="About"
          placeholder="the lowest"
          value={asked.pivot}
          onChange={(event) => onChange({ pivot: event.currentTarget.value })}
        />
      </>
    );
  return (
    <>
      {how === 'move' && (
        <Typed
          label="Later, ms"
          value={asked.ms}
          min={-MOST_MS}
          max={MOST_MS}
          step={10}
          autoFocus
          onValue={(ms) => onChange({ ms })}
        />
      )}
      <Typed label="Up, % of the throw" value={asked.percent} min={-100} max={100} step={1} onValue={up} />
      {how === 'lift' && (
        <Typed label="Edges, ms" value={Math.round(liftEdge * 1000)} min={0} max={30_000} step={10} onValue={setEdge} />
      )}
    </>
  );
}

/** What would be done, in words; or why there is nothing to do. */
function saysOf(scene: MendScene, how: How, edit: Edit | null, wrong: string | null): string {
  const { song, range, inHand, chosen } = scene;
  if (wrong) return wrong;
  if (how === 'lift') {
    if (!range) return 'Set a range first, with I and O or by dragging on the ruler.';
    const lanes = (inHand ? togetherWith(inHand, chosen) : []).map((id) => layerOf(song, id));
    return `${lanesWords(song, lanes)} lifted over the range; its ends stay.`;
  }
  const points = pointsMeant(scene);
  if (!points) return 'Nothing is picked: click points of the lane in hand, or set a range with points in it.';
  const which = pointsWords(song, points.lanes, countPicked(points));
  if (!edit) return `${which}.`;
  const amount = amountOf(song, applyEdit(song, edit).song, points);
  return `${which} ${how === 'scale' ? 'scaled' : 'moved'}${amount ? `: the first ${amount}` : ''}.`;
}
