import type { ReactNode } from 'react';
import { ActionIcon, Autocomplete, Button, Group, Progress, Text, TextInput } from '@mantine/core';
import {
  DndContext,
  KeyboardSensor,
  PointerSensor,
  closestCenter,
  useSensor,
  useSensors,
  type Announcements,
  type DragEndEvent,
  type UniqueIdentifier,
} from '@dnd-kit/core';
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { IconGripVertical, IconX } from '@tabler/icons-react';
import { FAMILY_NAMES } from '@sure-hand/core/formats';
import { printClock } from '@sure-hand/core/time';
import { Tip } from '../../parts/Tip.js';
import type { Stem, StemAct } from './stems.js';

type Props = {
  readonly stems: readonly Stem[];
  readonly rate: number;
  readonly act: (act: StemAct) => void;
  readonly remove: (key: string) => void;
};

/** The stems in the order of their tracks-to-be: dragged by their grips, or moved with Space and the arrows. */
export function StemList({ stems, rate, act, remove }: Props): ReactNode {
  const sensors = useSensors(
    useSensor(PointerSensor),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const moved = ({ active, over }: DragEndEvent): void => {
    if (!over || active.id === over.id) return;
    act({ do: 'move', key: String(active.id), to: stems.findIndex((stem) => stem.key === over.id) });
  };
  const families = [...new Set([...FAMILY_NAMES, ...stems.map((stem) => stem.family)])].filter(Boolean);
  const nameOf = (key: UniqueIdentifier): string => stems.find((stem) => stem.key === key)?.name ?? '';
  const placeOf = (key: UniqueIdentifier): string =>
    `${stems.findIndex((stem) => stem.key === key) + 1} of ${stems.length}`;
  const announcements: Announcements = {
    onDragStart: ({ active }) => `${nameOf(active.id)} is lifted, from place ${placeOf(active.id)}.`,
    onDragOver: ({ active, over }) =>
      over ? `${nameOf(active.id)} would come to place ${placeOf(over.id)}.` : undefined,
    onDragEnd: ({ active, over }) => `${nameOf(active.id)} is put down at place ${placeOf((over ?? active).id)}.`,
    onDragCancel: ({ active }) => `${nameOf(active.id)} stays at place ${placeOf(active.id)}.`,
  };
  const screenReaderInstructions = {
    draggable: 'Space lifts the stem, the arrow keys move it, Space puts it down, Escape leaves it where it was.',
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={moved}
      accessibility={{ announcements, screenReaderInstructions }}
    >
      <SortableContext items={stems.map((stem) => stem.key)} strategy={verticalListSortingStrategy}>
        <ol className="stems" aria-label="Stems">
          {stems.map((stem) => (
            <StemRow key={stem.key} stem={stem} rate={rate} families={families} act={act} remove={remove} />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}

function StemRow({
  stem,
  rate,
  families,
  act,
  remove,
}: Omit<Props, 'stems'> & { stem: Stem; families: string[] }): ReactNode {
  const { key, fileName, state } = stem;
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: key });
  const style = { transform: CSS.Transform.toString(transform), transition };
  return (
    <li ref={setNodeRef} style={style} className={isDragging ? 'stem is-carried' : 'stem'} data-state={state}>
      <ActionIcon
        variant="subtle"
        color="gray"
        className="grip"
        {...attributes}
        {...listeners}
        aria-label={`Move ${fileName}`}
      >
        <IconGripVertical size={16} />
      </ActionIcon>
      {state === 'broken' ? (
        <BrokenStem stem={stem} act={act} />
      ) : (
        <>
          <StemNames stem={stem} families={families} act={act} />
          <StemWords stem={stem} rate={rate} />
        </>
      )}
      <Tip label={state === 'sending' ? 'Give this one up' : 'Leave this one out'}>
        <ActionIcon variant="subtle" color="gray" aria-label={`Leave out ${fileName}`} onClick={() => remove(key)}>
          <IconX size={14} />
        </ActionIcon>
      </Tip>
    </li>
  );
}

type OfStem = { readonly stem: Stem } & Pick<Props, 'act'>;

/** A file that can't be used: why, and another try where it was only on its way. */
function BrokenStem({ stem: { key, fileName, sentence, staged }, act }: OfStem): ReactNode {
  return (
    <>
      <Text fz="sm" className="stem-trouble" role="alert">
        <b>{fileName}</b> is left out. {sentence}
      </Text>
      {staged === null && (
        <Button size="compact-xs" variant="default" onClick={() => act({ do: 'again', key })}>
          Try again
        </Button>
      )}
    </>
  );
}

/** What the track is to be called, and which family it is of. */
function StemNames({ stem, families, act }: OfStem & { readonly families: string[] }): ReactNode {
  const { key, fileName, state, name, family } = stem;
  return (
    <>
      <TextInput
        size="xs"
        className="stem-name"
        aria-label={`Name of ${fileName}`}
        maxLength={200}
        value={name}
        disabled={state !== 'ready'}
        onChange={(event) => act({ do: 'describe', key, words: { name: event.currentTarget.value } })}
      />
      <Autocomplete
        size="xs"
        w={150}
        aria-label={`Family of ${fileName}`}
        data={families}
        value={family}
        disabled={state !== 'ready'}
        onChange={(typed) => act({ do: 'describe', key, words: { family: typed } })}
      />
    </>
  );
}

/** What a file is, or how far on its way. */
function StemWords({ stem: { fileName, state, share, staged }, rate }: { stem: Stem; rate: number }): ReactNode {
  if (state !== 'ready' || !staged?.info)
    return (
      <Group gap="xs" wrap="nowrap" className="stem-words">
        <Progress value={100 * share} flex={1} aria-label={`${fileName} on its way`} />
        <Text fz="xs" className="figures" w={44}>
          {state === 'waiting' ? 'waits' : `${Math.floor(100 * share)} %`}
        </Text>
      </Group>
    );
  const { sampleRate, channels, format, frames } = staged.info;
  const bits =
    { int16: '16 bit', int24: '24 bit', int32: '32 bit', float32: '32 bit float' }[format as string] ?? format;
  const is = `${channels === 1 ? 'mono' : 'stereo'} · ${bits} · ${sampleRate / 1000} kHz${sampleRate === rate ? '' : ` → ${rate / 1000}`} · ${printClock(frames / sampleRate).replace(/\.\d+$/, '')}`;
  return (
    <Text fz="xs" c="dimmed" className="stem-words" truncate title={`${fileName}: ${is}`}>
      {is}
    </Text>
  );
}
