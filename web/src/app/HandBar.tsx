import { useEffect, useState, type ReactNode } from 'react';
import { ActionIcon, Button, Group, Text, TextInput, Tooltip, UnstyledButton } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { layerInHand } from '@sure-hand/core/pass';
import { channelOf, controlOf, type ControlId } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { TRIM_LAW, parseValue, printDb, printValue } from '@sure-hand/core/units';
import { troubleSeen, type CutShort } from '../song/songSlice.js';
import { cutShortWords, handWords } from '../hands/handSentence.js';
import { settleCutShort } from './cutShort.js';
import { MainMeter } from './MainMeter.js';
import { useHands } from './openSong.js';
import { useAppDispatch, useAppSelector } from './store.js';
import { typingSet } from './viewSlice.js';

/** How often the words and the value are read anew while the song rolls. */
const READ_MS = 200;

/** Draws again with every change of the hands, and now and then while the song rolls. */
function useMoment(): ReturnType<typeof useHands> {
  const open = useHands();
  const [, again] = useState(0);
  const { isRolling } = open.session;
  useEffect(() => {
    if (!isRolling) return;
    const timer = setInterval(() => again((n) => n + 1), READ_MS);
    return () => clearInterval(timer);
  }, [isRolling]);
  return open;
}

/** The value of the control in hand, as text to read and, opened, as a field to type into. */
function ValueField({ id }: { id: ControlId }): ReactNode {
  const { session, control } = useMoment();
  const dispatch = useAppDispatch();
  const typing = useAppSelector((state) => state.view.typing);
  const [wrong, setWrong] = useState<string | null>(null);
  const { recorder } = session;
  const { display, law } = controlOf(recorder.song, id);
  const isTrim = layerInHand(recorder.song, id) === 'trim';
  const value = recorder.capAt(id, control.position);
  const close = (): void => {
    setWrong(null);
    dispatch(typingSet(false));
  };
  const enter = (typed: string): void => {
    const read = parseValue(display, isTrim ? TRIM_LAW : law, typed);
    if (!read.ok) return setWrong(read.sentence);
    control.typeValue(id, read.value);
    close();
  };
  if (typing)
    return (
      <Tooltip label={wrong} opened={wrong !== null} color="hand" multiline maw={320}>
        <TextInput
          autoFocus
          w={112}
          aria-label="Value"
          error={wrong !== null}
          placeholder={printValue(display, value)}
          onBlur={close}
          onKeyDown={(event) => {
            if (event.key === 'Enter') enter(event.currentTarget.value);
            if (event.key === 'Escape') close();
          }}
        />
      </Tooltip>
    );
  return (
    <Tooltip label="Type a value (=)">
      <UnstyledButton className="value" data-testid="value" onClick={() => dispatch(typingSet(true))}>
        {isTrim ? printDb(value, true) : printValue(display, value)}
      </UnstyledButton>
    </Tooltip>
  );
}

/** The pass that was cut short and waits for a decision: told while the song stands, one after the other. */
function useCutShort(): CutShort | null {
  const { session } = useHands();
  const first = useAppSelector((state) => state.song.cutShort[0]);
  return session.isRolling ? null : (first ?? null);
}

function CutShortActs(): ReactNode {
  return (
    <Group gap="xs" wrap="nowrap">
      <Tooltip label="Keep it (Shift+K)">
        <Button size="sm" radius="xl" variant="default" onClick={() => settleCutShort(true)}>
          Keep it
        </Button>
      </Tooltip>
      <Tooltip label="Drop it (Shift+D)">
        <Button size="sm" radius="xl" variant="subtle" color="gray" onClick={() => settleCutShort(false)}>
          Drop it
        </Button>
      </Tooltip>
    </Group>
  );
}

function Words({ id }: { id: ControlId | null }): ReactNode {
  const { session, control } = useMoment();
  const song = useAppSelector((state) => state.song.song)!;
  const { trouble, lastPass, pending } = useAppSelector((state) => state.song);
  const receipt = useAppSelector((state) => state.view.receipt);
  const dispatch = useAppDispatch();
  // A pass on its way to the server has no number yet: it will be the next one.
  const passNumber = lastPass + (pending.some(({ edit }) => edit.kind === 'pass') ? 1 : 0);
  const map = meterMap(song.tempo, song.meter);
  const moment = { recorder: session.recorder, map, position: control.position };
  const cutShort = useCutShort();
  const words = cutShort
    ? cutShortWords(song, map, cutShort.receipt)
    : handWords({ ...moment, receipt, passNumber, inHand: id });
  if (trouble)
    return (
      <Group gap="xs" wrap="nowrap" className="words" role="alert">
        <Text fz="sm" className="trouble">
          {trouble}
        </Text>
        <ActionIcon variant="subtle" color="gray" aria-label="Seen" onClick={() => dispatch(troubleSeen())}>
          <IconX size={14} />
        </ActionIcon>
      </Group>
    );
  return (
    <div className="words" role="status">
      <Text fz="md" className={words.isWriting ? 'says writing' : 'says'} data-testid="hand-says">
        {words.says}
      </Text>
      <Text fz="xs" c="dimmed" data-testid="hand-more" className="more">
        {words.more}
      </Text>
    </div>
  );
}

function Acts(): ReactNode {
  const { session, control } = useMoment();
  const { history } = useAppSelector((state) => state.song);
  const receipt = useAppSelector((state) => state.view.receipt);
  const { recorder } = session;
  const cutShort = useCutShort();
  if (cutShort) return <CutShortActs />;
  const isHeld =
    recorder.touched.length > 0 ||
    recorder.poised.size > 0 ||
    (recorder.roll?.takes.some((take) => take.isOpen) ?? false);
  return (
    <Group gap="xs" wrap="nowrap">
      {isHeld && (
        <Button size="sm" radius="xl" variant="default" onClick={() => control.letGo()}>
          Let go
        </Button>
      )}
      {!session.isRolling && receipt && receipt.lanes.length > 0 && history.undo?.startsWith('Pass') && (
        <Button size="sm" radius="xl" variant="default" onClick={() => void control.undo()}>
          Undo this pass
        </Button>
      )}
    </Group>
  );
}

/** The strip that says what will, does and did happen: the control in hand, its value, one sentence, the acts that fit. */
export function HandBar(): ReactNode {
  const { session } = useHands();
  const inHand = useAppSelector((state) => state.view.inHand);
  const song = useAppSelector((state) => state.song.song)!;
  const isWriting = session.recorder.roll?.takes.some((take) => take.isOpen) ?? false;
  const control = inHand ? controlOf(song, inHand) : null;
  return (
    <footer className={isWriting ? 'hand-bar is-writing' : 'hand-bar'}>
      {control && inHand ? (
        <>
          <div className="in-hand">
            <Text fw={700} truncate data-testid="in-hand">
              {channelOf(song, control.channel)!.name}
            </Text>
            <Text fz="xs" c="dimmed" truncate>
              {control.name}
            </Text>
          </div>
          <ValueField id={inHand} />
        </>
      ) : (
        <Text c="dimmed">Nothing in hand.</Text>
      )}
      <Words id={inHand} />
      <Acts />
      <MainMeter />
    </footer>
  );
}
