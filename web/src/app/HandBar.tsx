import { useState, type ReactNode } from 'react';
import { ActionIcon, Button, Group, Text, TextInput, Tooltip, UnstyledButton } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { layerInHand, type PassRecorder } from '@sure-hand/core/pass';
import { trimmedDb } from '@sure-hand/core/curve';
import { channelOf, controlOf, ownValueAt, type ControlId } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { TRIM_LAW, parseValue, printDb, printValue } from '@sure-hand/core/units';
import { troubleCame, troubleSeen, type CutShort } from '../song/songSlice.js';
import { withCarries } from '../hands/carrying.js';
import { playEdges } from '../hands/commandScene.js';
import { comparedWords, cutShortWords, handWords, type HandWords } from '../hands/handSentence.js';
import { settleCutShort } from './cutShort.js';
import { MainMeter } from './MainMeter.js';
import { useHands } from './openSong.js';
import { store, useAppDispatch, useAppSelector } from './store.js';
import { useMoment } from './useMoment.js';
import { askedFor, typingSet } from './viewSlice.js';

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
  const result = isTrim ? trimmedDb(ownValueAt(recorder.song, id, control.position).base, value) : null;
  return (
    <Tooltip label={isTrim ? 'The offset, and the result under it. Type an offset (=)' : 'Type a value (=)'}>
      <UnstyledButton className="value" data-testid="value" onClick={() => dispatch(typingSet(true))}>
        {isTrim ? printDb(value, true) : printValue(display, value)}
        {result !== null && (
          <span className="value-result" data-testid="result">
            → {printDb(result)}
          </span>
        )}
      </UnstyledButton>
    </Tooltip>
  );
}

/** The pass that was cut short and waits for a decision: told while the song stands, one after the other. */
function useCutShort(): CutShort | null {
  const { session } = useHands();
  const first = useAppSelector((state) => state.song.cutShort[0]);
  return session.isMoving ? null : (first ?? null);
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

/** What the words are about: another state of the song being heard, a passage, a pass cut short, or the pass. */
function useWords(id: ControlId | null): HandWords {
  const { session, control, comparison } = useMoment();
  const song = useAppSelector((state) => state.song.song)!;
  const { lastPass, pending } = useAppSelector((state) => state.song);
  const { receipt, carries } = useAppSelector((state) => state.view);
  const cutShort = useCutShort();
  const map = meterMap(song.tempo, song.meter);
  // A pass on its way to the server has no number yet: it will be the next one.
  const passNumber = lastPass + (pending.some(({ edit }) => edit.kind === 'pass') ? 1 : 0);
  if (comparison.heard && !session.recorder.roll?.takes.some((take) => take.isOpen))
    return comparedWords(comparison.heard.side, comparison.heard.number ?? passNumber);
  if (session.isListening)
    return { says: 'Hearing the edges.', more: 'Nothing is written meanwhile.', isWriting: false };
  if (cutShort) return cutShortWords(song, map, cutShort.receipt);
  const moment = { recorder: session.recorder, map, position: control.position };
  const carried = receipt && carries.length ? withCarries(receipt, carries) : receipt;
  return handWords({ ...moment, receipt: carried, passNumber, inHand: id });
}

function Words({ id }: { id: ControlId | null }): ReactNode {
  const words = useWords(id);
  const { trouble } = useAppSelector((state) => state.song);
  const dispatch = useAppDispatch();
  // While a hand writes, what it writes is said; the trouble waits.
  if (trouble && !words.isWriting)
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
    <Tooltip label="Every control, and why (Shift+W)">
      <UnstyledButton
        className="words"
        aria-label="What passes write: the list"
        onClick={() => dispatch(askedFor({ what: 'list' }))}
      >
        <div role="status">
          <Text fz="md" className={words.isWriting ? 'says writing' : 'says'} data-testid="hand-says">
            {words.says}
          </Text>
          <Text fz="xs" c="dimmed" data-testid="hand-more" className="more">
            {words.more}
          </Text>
        </div>
      </UnstyledButton>
    </Tooltip>
  );
}

function Act({ label, onClick, children }: { label: string; onClick: () => void; children: ReactNode }): ReactNode {
  return (
    <Tooltip label={label}>
      <Button size="sm" radius="xl" variant="default" onClick={onClick}>
        {children}
      </Button>
    </Tooltip>
  );
}

const isWriting = (recorder: PassRecorder, id: ControlId): boolean =>
  recorder.roll?.takes.some((take) => take.control === id && take.isOpen) ?? false;

/** What fits the moment: letting go, or what can be done with the pass that was just made. */
function Acts(): ReactNode {
  const { session, control, comparison } = useMoment();
  const { history } = useAppSelector((state) => state.song);
  const receipt = useAppSelector((state) => state.view.receipt);
  const { recorder } = session;
  const cutShort = useCutShort();
  if (cutShort) return <CutShortActs />;
  // What waits: poised values that the pass has begun to write wait no more.
  const poised = [...recorder.poised.keys()].filter((id) => !isWriting(recorder, id)).length;
  const isHeld =
    recorder.touched.length > 0 || poised > 0 || (recorder.roll?.takes.some((take) => take.isOpen) ?? false);
  const isAfter = !session.isRolling && receipt !== null && receipt.lanes.length > 0;
  const isOurs = history.undo?.startsWith('Pass') || history.undo?.startsWith('Carry on');
  const say = (sentence: string): void => void store.dispatch(troubleCame(sentence));
  return (
    <Group gap="xs" wrap="nowrap">
      {poised > 0 && (
        <Text fz="sm" className="poised-count" data-testid="poised">
          {poised} poised
        </Text>
      )}
      {isHeld && (
        <Act label="Every cap out of its hand (Esc)" onClick={() => control.letGo()}>
          Let go
        </Act>
      )}
      {isAfter && !isHeld && (
        <>
          {isOurs && (
            <Act label="Takes the last step back (Ctrl+Z)" onClick={() => void control.undo()}>
              {history.undo!.startsWith('Pass') ? 'Undo this pass' : 'Undo the carry'}
            </Act>
          )}
          <Act
            label="Plays what leads in and out (E)"
            onClick={() => void playEdges({ control, range: null, receipt, say })}
          >
            Edges
          </Act>
        </>
      )}
      {(isAfter || comparison.heard) && !isHeld && (
        <Act label="Before or after the pass, while it rolls (B)" onClick={() => void comparison.toggle()}>
          {comparison.heard ? (comparison.heard.side === 'before' ? 'Hear after' : 'Hear before') : 'Hear before'}
        </Act>
      )}
    </Group>
  );
}

/** The strip that says what will, does and did happen: the control in hand, its value, one sentence, the acts that fit. */
export function HandBar(): ReactNode {
  const { session } = useHands();
  const inHand = useAppSelector((state) => state.view.inHand);
  const song = useAppSelector((state) => state.song.song)!;
  const writes = session.recorder.roll?.takes.some((take) => take.isOpen) ?? false;
  const control = inHand ? controlOf(song, inHand) : null;
  return (
    <footer className={writes ? 'hand-bar is-writing' : 'hand-bar'}>
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
