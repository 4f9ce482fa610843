import { useMemo, type ReactNode } from 'react';
import { ActionIcon, Text, VisuallyHidden } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { IconX } from '@tabler/icons-react';
import type { PassRecorder } from '@sure-hand/core/pass';
import { channelOf, controlOf, ownValueAt, swayControlId, type ControlId } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { SWAY_SCALE } from '@sure-hand/core/units';
import type { History } from '@sure-hand/server';
import { troubleSeen } from '../song/songSlice.js';
import { withChanges } from '../hands/carrying.js';
import { playEdges } from '../hands/commandScene.js';
import { alongWords } from '../hands/familyWords.js';
import { handWords, type HandWords } from '../hands/handSentence.js';
import { clearPoints, pickPass } from '../hands/mending.js';
import { lonePoint, putShoulders } from '../hands/shoulders.js';
import { countPicked, pickedThere, type Picked } from '../hands/picking.js';
import { mendScene } from '../open/mendScene.js';
import { comparedWords } from '../hands/receiptWords.js';
import { swayTarget, swayWords } from '../hands/sways.js';
import { Act } from './Act.js';
import { MainMeter } from './MainMeter.js';
import { MendMenu } from './MendMenu.js';
import { useOfHands } from '../open/OpenSongProvider.js';
import { PlainButton } from '../parts/PlainButton.js';
import { Tip } from '../parts/Tip.js';
import { SnapshotActs, useSnapshotInView, useSnapshotWords } from './SnapshotActs.js';
import { useAppDispatch, useAppSelector, useViewParts, useSongParts } from '../store/store.js';
import { useMoment } from '../open/useMoment.js';
import { ValueField } from './ValueField.js';
import { askedFor, passRecalled, type LastPass } from '../store/viewSlice.js';

/** What the words are about: another state of the song being heard, a passage, or the pass that was, is or is to come. */
function useWords(id: ControlId | null): HandWords {
  const { session, control, comparison, drafting } = useMoment();
  const song = useAppSelector((state) => state.song.song)!;
  const { lastPass, pending } = useSongParts('lastPass', 'pending');
  const { pass, isPassTold, did, spanChanges } = useViewParts('pass', 'isPassTold', 'did', 'spanChanges');
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const isLate = useLateStart(session.isStarting);
  // A pass on its way to the server has no number yet: it will be the next one.
  const coming = lastPass + (pending.some(({ edit }) => edit.kind === 'pass') ? 1 : 0);
  const number = pass?.number ?? Math.max(1, coming);
  if (comparison.heard && !session.recorder.roll?.takes.some((take) => take.isOpen))
    return comparedWords(comparison.heard.side, comparison.heard.number ?? number);
  if (drafting.controls.length && !session.recorder.roll?.takes.some((take) => take.isOpen))
    return { says: 'Heard as it would be. Nothing is kept yet.', more: 'Esc gives it up.', isWriting: false };
  if (control.isScrubbing)
    return {
      says: 'Scrubbing: the song is heard as it is drawn under the line.',
      more: 'Nothing is written meanwhile. The returns are silent.',
      isWriting: false,
    };
  if (isLate)
    return {
      says: 'Waiting for the sound to begin.',
      more: 'Nothing is written before it does; Space gives it up.',
      isWriting: false,
    };
  if (session.listeningTo) {
    const { what, isAgain } = session.listeningTo;
    const more = 'Nothing is written meanwhile; Space stops, and the line is back where it was.';
    return { says: `Hearing ${what}${isAgain ? ', again and again' : ''}.`, more, isWriting: false };
  }
  const moment = { recorder: session.recorder, map, position: control.position, inHand: id, did };
  const receipt = pass && (spanChanges.length ? withChanges(pass.receipt, spanChanges) : pass.receipt);
  const words = handWords({ ...moment, told: receipt && isPassTold ? { receipt, number, close: pass.close } : null });
  // Whom a hand would move along concerns the control in hand: it comes first.
  const along = id && !words.isWriting && !(receipt && isPassTold) ? alongWords(session.recorder.song, id) : null;
  return along ? { ...words, more: `${along} ${words.more}` } : words;
}

/** A play that was asked for and has not begun after so long is worth a word. */
const LATE_MS = 400;

/** Whether a play that was asked for is late. */
function useLateStart(isStarting: boolean): boolean {
  const [wasStarting] = useDebouncedValue(isStarting, LATE_MS);
  return isStarting && wasStarting;
}

function Words({ id }: { id: ControlId | null }): ReactNode {
  const hands = useWords(id);
  const snapshot = useSnapshotWords();
  const words = snapshot && !hands.isWriting ? { ...snapshot, isWriting: false } : hands;
  const dispatch = useAppDispatch();
  return (
    <>
      <Tip label="Every control, and why (Shift+W)">
        <PlainButton
          className="words"
          aria-label="What passes write: the list"
          onClick={() => dispatch(askedFor({ what: 'list' }))}
        >
          <p className={words.isWriting ? 'says writing' : 'says'} data-testid="hand-says" title={words.says}>
            {words.says}
          </p>
          <p data-testid="hand-more" className="more" title={words.more}>
            <AwayWords />
            {words.more}
          </p>
        </PlainButton>
      </Tip>
      <Spoken words={words} />
      {/* While a hand writes, what it writes is said; the trouble waits. */}
      {!words.isWriting && <Trouble />}
    </>
  );
}

/** What went wrong, over the bar: what play would do, and what it did, stand there as ever. It goes with the next thing that is done. */
function Trouble(): ReactNode {
  const { trouble } = useSongParts('trouble');
  const dispatch = useAppDispatch();
  if (!trouble) return null;
  return (
    <div className="trouble-over" role="alert">
      <Text fz="sm" className="trouble">
        {trouble}
      </Text>
      <ActionIcon variant="subtle" color="gray" aria-label="Seen" onClick={() => dispatch(troubleSeen())}>
        <IconX size={14} />
      </ActionIcon>
    </div>
  );
}

/** What has stood so long is read out to somebody who hears the page: nothing that changes from moment to moment. */
const STANDS_MS = 400;

/** The sentences for those who hear the page: once they stand, and without the time that runs in them. */
function Spoken({ words }: { readonly words: HandWords }): ReactNode {
  const { isAway, notKept } = useSongParts('isAway', 'notKept');
  const away = isAway ? `The server ${notKept ? 'can’t keep it' : 'is away'}; what you do waits here. ` : '';
  const [said] = useDebouncedValue(away + (words.spoken ?? `${words.says} ${words.more}`), STANDS_MS);
  return (
    <VisuallyHidden role="status" data-testid="hand-spoken">
      {said}
    </VisuallyHidden>
  );
}

/** How much waits while the server is away; nothing while it is there. */
function AwayWords(): ReactNode {
  const { isAway, notKept, pending } = useSongParts('isAway', 'notKept', 'pending');
  if (!isAway) return null;
  return (
    <span className="away">
      {notKept ? 'Not kept yet' : 'Server away'}: {pending.length} {pending.length === 1 ? 'edit waits' : 'edits wait'}{' '}
      here.{' '}
    </span>
  );
}

const isWriting = (recorder: PassRecorder, id: ControlId): boolean =>
  recorder.roll?.takes.some((take) => take.control === id && take.isOpen) ?? false;

/** What fits the moment: letting go, or what can be done with the pass that was just made. */
function Acts(): ReactNode {
  const { session, control, comparison } = useMoment();
  const { history, cutShort } = useSongParts('history', 'cutShort');
  const { pass, isPassTold, picked, chosen } = useViewParts('pass', 'isPassTold', 'picked', 'chosen');
  const dispatch = useAppDispatch();
  const { recorder } = session;
  // What waits: poised values that the pass has begun to write wait no more.
  const poised = [...recorder.poised.keys()].filter((id) => !isWriting(recorder, id)).length;
  const isHeld =
    recorder.touched.length > 0 || poised > 0 || (recorder.roll?.takes.some((take) => take.isOpen) ?? false);
  const isAfter = !session.isRolling && !isHeld && isPassTold && pass !== null && pass.stands;
  return (
    <div className="acts">
      {poised > 0 && (
        <span className="poised-count" data-testid="poised">
          {poised} poised
        </span>
      )}
      {isHeld && (
        <Act label="Every cap out of its hand (Esc)" onClick={() => control.letGo()}>
          Let go
        </Act>
      )}
      <SwayAct />
      <Aside />
      {chosen.length > 0 && (
        <Tip label="A range is mended on all of them (Esc: the one in hand alone)">
          <span className="picked-count" data-testid="chosen">
            {chosen.length} lanes together
          </span>
        </Tip>
      )}
      {picked && !isHeld && <PickedActs picked={picked} />}
      {isAfter && !picked && pass.receipt.lanes.length > 0 && <AfterPass pass={pass} history={history} />}
      <SnapshotActs />
      {!session.isRolling && !isHeld && <AfterPlacing />}
      {comparison.heard && !isHeld && (
        <Act label="Before or after the pass, while it rolls (B)" onClick={() => void comparison.toggle()}>
          {comparison.heard.side === 'before' ? 'Hear after' : 'Hear before'}
        </Act>
      )}
      {!session.isMoving && pass && !isPassTold && (
        <Act label="What the last pass did, once more (R)" onClick={() => dispatch(passRecalled())}>
          Last pass
        </Act>
      )}
      {!session.isMoving && cutShort.length > 0 && (
        <Act
          label="Their pages went away before the stop: keep or drop each (Alt+C)"
          onClick={() => dispatch(askedFor({ what: 'cutShort' }))}
        >
          {cutShort.length} cut short
        </Act>
      )}
    </div>
  );
}

/** How far the control in hand sways, and what opens it; nothing where it does not. */
function SwayAct(): ReactNode {
  const { session, control } = useMoment();
  const { inHand } = useViewParts('inHand');
  const dispatch = useAppDispatch();
  const id = swayTarget(inHand);
  const sway = id && session.heardSong.lanes[id]?.sway;
  if (!id || !sway) return null;
  const depth = ownValueAt(session.heardSong, swayControlId(id), control.position).base;
  return (
    <Tip label={`${swayWords(session.heardSong, id, sway)} (Alt+Shift+G)`}>
      <PlainButton className="aside-count" data-testid="sways" onClick={() => dispatch(askedFor({ what: 'sway' }))}>
        {sway.on ? `Sways ${SWAY_SCALE.print(depth)}` : 'Sway off'}
      </PlainButton>
    </Tip>
  );
}

/** What is held aside: how many, whether a tryout is on, and what can be done with it. Nothing while there is none. */
function Aside(): ReactNode {
  const { session, tryout } = useMoment();
  const dispatch = useAppDispatch();
  // In the view of snapshots what can be placed is the one in hand there.
  const isOnSnapshot = useSnapshotInView() !== null;
  const { isOn, isBefore, held } = session.recorder.tryout;
  if (!isOn && !held.size) return null;
  return (
    <>
      <Tip label="What is held aside, and how far from its curves (Alt+Y)">
        <PlainButton className="aside-count" data-testid="aside" onClick={() => dispatch(askedFor({ what: 'aside' }))}>
          {held.size ? `${held.size} aside` : 'Tryout'}
        </PlainButton>
      </Tip>
      {held.size > 0 && !isOnSnapshot && (
        <>
          <Act label="What is held aside, or the curves without it, by ear (B)" onClick={() => void tryout.hearOther()}>
            {isBefore ? 'Hear held' : 'Hear curves'}
          </Act>
          <Act
            label="On the range, or on sections (P)"
            onClick={() => dispatch(askedFor({ what: 'place', how: 'place' }))}
          >
            Place…
          </Act>
        </>
      )}
    </>
  );
}

/** What can be done with a placing, while it is what was done last. */
function AfterPlacing(): ReactNode {
  const open = useMoment();
  const { control, comparison } = open;
  const placed = useAppSelector((state) => state.view.placed);
  if (!placed) return null;
  return (
    <>
      <Act label="Takes the last step back (Ctrl+Z)" onClick={() => void control.undo()}>
        Undo
      </Act>
      <Act label="Plays what leads in and out (E)" onClick={() => void control.playEdges(placed)}>
        Edges
      </Act>
      {!comparison.heard && (
        <Act label="Before or after it, while it rolls (B)" onClick={() => void comparison.toggle()}>
          Hear before
        </Act>
      )}
    </>
  );
}

/** How many points are picked, and what can be done with them. */
function PickedActs({ picked }: { picked: Picked }): ReactNode {
  const open = useMoment();
  const { song } = open.session.recorder;
  const there = pickedThere(song, picked);
  if (!there) return null;
  const lanes = there.lanes.length > 1 ? ` in ${there.lanes.length} lanes` : '';
  return (
    <>
      <span className="picked-count" data-testid="picked">
        {there.isPass ? 'The pass: ' : ''}
        {countPicked(there)} picked{lanes}
      </span>
      {lonePoint(song, there) && (
        <Act
          label="A point on either side, so that only what lies between goes with it (Alt+S)"
          onClick={() => putShoulders(mendScene(open))}
        >
          Shoulders
        </Act>
      )}
      <Act label="Takes the picked points away (Delete)" onClick={() => clearPoints(mendScene(open))}>
        Clear
      </Act>
      <Act label="Picks nothing (Esc)" onClick={() => mendScene(open).pick(null)}>
        Pick none
      </Act>
    </>
  );
}

/** What can be done with the pass that the receipt is of, while its lanes are as it left them. */
function AfterPass({ pass, history }: { pass: LastPass; history: History }): ReactNode {
  const open = useMoment();
  const { control, comparison } = open;
  const { undoOf } = history;
  const isOurs = undoOf?.kind === 'pass' && (pass.number === null || undoOf.pass === pass.number);
  const spanChanges = useAppSelector((state) => state.view.spanChanges);
  const last = spanChanges.at(-1);
  return (
    <>
      {(isOurs || last) && (
        <Act label="Takes the last step back (Ctrl+Z)" onClick={() => void control.undo()}>
          {isOurs ? 'Undo this pass' : last && 'shift' in last ? 'Undo the shift' : 'Undo the carry'}
        </Act>
      )}
      <Act
        label="All that it wrote, to be moved, lifted, thinned, cleared or carried together (Shift+R)"
        onClick={() => pickPass(mendScene(open))}
      >
        Pick it
      </Act>
      <Act label="Plays what leads in and out (E)" onClick={() => void playEdges({ ...mendScene(open), range: null })}>
        Edges
      </Act>
      {!comparison.heard && (
        <Act label="Before or after the pass, while it rolls (B)" onClick={() => void comparison.toggle()}>
          Hear before
        </Act>
      )}
    </>
  );
}

/** The strip that says what will, does and did happen: the control in hand, its value, one sentence, the acts that fit. */
export function HandBar(): ReactNode {
  const writes = useOfHands(({ session }) => session.recorder.roll?.takes.some((take) => take.isOpen) ?? false);
  const inHand = useAppSelector((state) => state.view.inHand);
  const song = useAppSelector((state) => state.song.song)!;
  const control = inHand ? controlOf(song, inHand) : null;
  return (
    <footer className={writes ? 'hand-bar is-writing' : 'hand-bar'}>
      {control && inHand ? (
        <>
          <div className="in-hand">
            <p className="in-hand-channel" data-testid="in-hand">
              {channelOf(song, control.channel)!.name}
            </p>
            <p className="in-hand-control">{control.name}</p>
          </div>
          <ValueField id={inHand} />
        </>
      ) : (
        <Text c="dimmed">Nothing in hand.</Text>
      )}
      <Words id={inHand} />
      <Acts />
      {control && <MendMenu />}
      <MainMeter />
    </footer>
  );
}
