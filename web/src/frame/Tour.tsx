import { useMemo, type ReactNode } from 'react';
import { ActionIcon, Button, Group, Text } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { useNavigate } from 'react-router';
import { isToured, tourOf, type TourStep } from '../hands/tour.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch, useAppSelector } from '../store/store.js';
import { rangeSet, takenInHand, tourMoved } from '../store/viewSlice.js';

/** The tour beside the song: offered once, step by step at the real controls, left at any time. */
export function Tour(): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const at = useAppSelector((state) => state.view.tour);
  if (at === 'left' || !isToured(song)) return null;
  if (at === null) return <Offer left={tourOf(song).filter(({ measure }) => measure).length} />;
  const steps = tourOf(song);
  const index = Math.min(at.step, steps.length - 1);
  return <Step step={steps[index]!} index={index} of={steps.length} />;
}

const COUNT: Readonly<Record<number, string>> = { 6: 'six', 7: 'seven' };

function Offer({ left }: { left: number }): ReactNode {
  const dispatch = useAppDispatch();
  return (
    <aside className="tour" aria-label="Tour">
      <Text fw={700} fz="sm">
        New here?
      </Text>
      <Text fz="sm" my={6}>
        A tour goes through this song’s notes, at the real controls: two that are done, to listen to, and{' '}
        {COUNT[left] ?? left} to do. Before each act it says what will happen.
      </Text>
      <Group gap={8}>
        <Button size="xs" onClick={() => dispatch(tourMoved({ step: 0 }))}>
          Begin the tour
        </Button>
        <Button size="xs" variant="default" onClick={() => dispatch(tourMoved('left'))}>
          Not now
        </Button>
      </Group>
      <Text fz="xs" c="dimmed" mt={6}>
        It is not offered again; the menu at the top right has it.
      </Text>
    </aside>
  );
}

/** Goes where a step is about: its view, its place, its control in hand, its range. */
function useGo(step: TourStep): () => void {
  const { id, control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  return () => {
    const { view, t, control: hand, range } = step.place(song);
    void navigate(`/songs/${id}/${view}`);
    void control.locate(t);
    dispatch(takenInHand(hand));
    dispatch(rangeSet(range));
  };
}

function Step({ step, index, of }: { step: TourStep; index: number; of: number }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const measured = useMemo(() => step.measure?.(song) ?? null, [step, song]);
  return (
    <aside className="tour" aria-label="Tour">
      <StepHead index={index} of={of} />
      <Text fw={700} fz="sm">
        {step.title}
      </Text>
      <Text fz="sm" my={4}>
        {step.will}
      </Text>
      <ol className="tour-acts">
        {step.acts.map((act) => (
          <li key={act}>{act}</li>
        ))}
      </ol>
      {measured && (
        <Text
          fz="sm"
          className={measured.isSolved ? 'tour-solved' : 'tour-open'}
          data-testid="tour-measure"
          role="status"
        >
          {measured.isSolved ? 'Solved. ' : ''}
          {measured.words}
        </Text>
      )}
      <StepActs step={step} index={index} of={of} />
    </aside>
  );
}

function StepHead({ index, of }: { index: number; of: number }): ReactNode {
  const dispatch = useAppDispatch();
  return (
    <Group justify="space-between" wrap="nowrap" gap={6}>
      <Text fz="xs" c="dimmed">
        Tour, {index + 1} of {of}
      </Text>
      <ActionIcon
        variant="subtle"
        color="gray"
        size="sm"
        aria-label="Leave the tour"
        onClick={() => dispatch(tourMoved('left'))}
      >
        <IconX size={14} />
      </ActionIcon>
    </Group>
  );
}

function StepActs({ step, index, of }: { step: TourStep; index: number; of: number }): ReactNode {
  const dispatch = useAppDispatch();
  const go = useGo(step);
  const isLast = index === of - 1;
  return (
    <Group gap={6} mt={8} wrap="nowrap">
      <Button size="xs" onClick={go}>
        Take me there
      </Button>
      <Button
        size="xs"
        variant="default"
        disabled={index === 0}
        onClick={() => dispatch(tourMoved({ step: index - 1 }))}
      >
        Back
      </Button>
      <Button size="xs" variant="default" onClick={() => dispatch(tourMoved(isLast ? 'left' : { step: index + 1 }))}>
        {isLast ? 'Done' : 'Next'}
      </Button>
    </Group>
  );
}
