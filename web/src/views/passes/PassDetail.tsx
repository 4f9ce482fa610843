import { useEffect, useMemo, useState, type ReactNode } from 'react';
import { Alert, Button, Group, SegmentedControl, Select, Text, TextInput } from '@mantine/core';
import { type LoggedLane, type PassSide, type Receipt } from '@sure-hand/core/edits';
import { controlsOf, type Refusal, type Song } from '@sure-hand/core/song';
import type { Range } from '@sure-hand/core/curve';
import { meterMap } from '@sure-hand/core/time';
import type { LoggedPass, WholePass } from '@sure-hand/server';
import { entryTitle } from '../../hands/entryWords.js';
import { shortBars } from '../../hands/reachWords.js';
import { layerName, leftWords } from '../../hands/reasonWords.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useMoment } from '../../open/useMoment.js';
import { store, useAppDispatch, useAppSelector } from '../../store/store.js';
import { describePass } from '../../song/songApi.js';
import { Tip } from '../../parts/Tip.js';
import { troubleCame } from '../../song/songSlice.js';
import { PassCharts } from './PassCharts.js';
import { VersionGrid } from './VersionGrid.js';
import { usePass } from './usePasses.js';

/** How much is shown on either side of what a pass wrote, as a share of it, and at least. */
const MARGIN = { share: 0.12, sec: 1 } as const;

/** What is shown of a lane: what the pass wrote there, with a margin. */
function shownRange(song: Song, pass: WholePass, lane: LoggedLane): Range {
  const spans = pass.receipt.lanes.filter((one) => one.control === lane.control).flatMap((one) => one.spans);
  const from = Math.min(...spans.map(([a]) => a));
  const to = Math.max(...spans.map(([, b]) => b));
  const margin = Math.max(MARGIN.sec, (to - from) * MARGIN.share);
  return [Math.max(0, from - margin), Math.min(song.length, to + margin)];
}

/** The lane that a hand did most on: that one is looked at first. */
function mostRidden(lanes: readonly LoggedLane[], { lanes: written }: Receipt): number {
  const moves = lanes.map(
    ({ control, layer }) => written.find((one) => one.control === control && one.layer === layer)?.moves ?? 0,
  );
  return Math.max(0, moves.indexOf(Math.max(...moves)));
}

/** So many lanes of a pass stand side by side; more of them are picked from a list that can be searched. */
const SIDE_BY_SIDE = 6;

/** Which lane of a pass is looked at, where it wrote several. */
function LanePicker({
  song,
  lanes,
  chosen,
  onChoose,
}: {
  song: Song;
  lanes: readonly LoggedLane[];
  chosen: number;
  onChoose: (i: number) => void;
}): ReactNode {
  if (lanes.length < 2) return null;
  const data = lanes.map((one, i) => ({ value: String(i), label: layerName(song, one.control, one.layer) }));
  const choose = (i: string | null): void => void (i !== null && onChoose(Number(i)));
  if (lanes.length <= SIDE_BY_SIDE)
    return (
      <SegmentedControl
        size="xs"
        aria-label="Lane"
        className="pass-lanes"
        data={data}
        value={String(chosen)}
        onChange={choose}
      />
    );
  return (
    <Group gap="xs">
      <Select
        size="xs"
        w={260}
        aria-label="Lane"
        searchable
        allowDeselect={false}
        data={data}
        value={String(chosen)}
        onChange={choose}
        nothingFoundMessage="This pass wrote no such lane."
      />
      <Text fz="xs" c="dimmed">
        {chosen + 1} of {lanes.length} lanes
      </Text>
    </Group>
  );
}

/** One pass, opened: what it is called, old against new, by eye and by ear, and bringing back. */
export function PassDetail({ listed, onDescribed }: { listed: LoggedPass; onDescribed: () => void }): ReactNode {
  const { comparison } = useMoment();
  const song = useAppSelector((state) => state.song.song)!;
  const { value: pass, trouble } = usePass(listed.number);
  const [picked, setChosen] = useState<number | null>(null);
  const lanes = useMemo(() => pass?.lanes.filter((lane) => controlsOf(song).has(lane.control)) ?? [], [pass, song]);
  const chosen = picked ?? (pass ? mostRidden(lanes, pass.receipt) : 0);
  const lane = lanes[Math.min(chosen, lanes.length - 1)];
  useEffect(() => {
    if (pass) comparison.choose({ number: pass.number, lanes: pass.lanes });
    return () => comparison.choose(null);
    // The pass's curves never change; only whether it is undone does.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [comparison, pass?.number]);
  return (
    <section className="pass-detail" aria-label={entryTitle(listed)}>
      <PassWords listed={listed} onDescribed={onDescribed} />
      {trouble && (
        <Alert color="hand" variant="light">
          {trouble}
        </Alert>
      )}
      {listed.left.length > 0 && <LeftAlone song={song} pass={pass} left={listed.left} />}
      {pass && !lane && <Text c="dimmed">The controls that this pass wrote are not in the song any more.</Text>}
      {pass && lane && (
        <>
          <LanePicker song={song} lanes={lanes} chosen={lanes.indexOf(lane)} onChoose={setChosen} />
          <PassActs pass={pass} lane={lane} range={shownRange(song, pass, lane)} />
          <PassCharts song={song} pass={pass} lane={lane} range={shownRange(song, pass, lane)} />
          <VersionGrid song={song} lane={lane} />
        </>
      )}
    </section>
  );
}

/** Lanes that were guarded as the pass came: what was ridden on them is here, and can be brought into the song from here. */
function LeftAlone({ song, pass, left }: { song: Song; pass: WholePass | null; left: readonly Refusal[] }): ReactNode {
  const { control, comparison } = useMoment();
  const alone = new Set(left.map((one) => one.control));
  const lanes = pass?.lanes.filter((lane) => alone.has(lane.control) && controlsOf(song).has(lane.control)) ?? [];
  const bring = (): void => {
    comparison.asItStands();
    control.bringBack(pass!.number, lanes, 'after', null);
  };
  return (
    <Group gap="sm" className="pass-left-alone" wrap="nowrap">
      <Text fz="sm">{leftWords(song, left)} What was ridden there is kept here.</Text>
      <Button size="xs" variant="default" disabled={!lanes.length} onClick={bring}>
        Let what was ridden stand
      </Button>
    </Group>
  );
}

/** A pass's name and note, kept as they are typed. */
function PassWords({ listed, onDescribed }: { listed: LoggedPass; onDescribed: () => void }): ReactNode {
  const id = useAppSelector((state) => state.song.id)!;
  const dispatch = useAppDispatch();
  const keep = (words: { name?: string; note?: string }): void =>
    void describePass(id, listed.number, words).then(onDescribed, (error: Error) =>
      dispatch(troubleCame(error.message)),
    );
  const field = (what: 'name' | 'note', label: string, placeholder: string): ReactNode => (
    <TextInput
      key={`${what} ${listed[what] ?? ''}`}
      size="xs"
      aria-label={label}
      placeholder={placeholder}
      className={`pass-${what}-field`}
      maxLength={what === 'name' ? 200 : 4000}
      defaultValue={listed[what] ?? ''}
      onBlur={(event) =>
        event.currentTarget.value !== (listed[what] ?? '') && keep({ [what]: event.currentTarget.value })
      }
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
    />
  );
  return (
    <Group gap="xs" wrap="nowrap" className="pass-head">
      <Text fw={700} className="pass-title">
        {entryTitle(listed)}
      </Text>
      {field('name', 'Name of the pass', 'Name it')}
      {field('note', 'Note on the pass', 'Note')}
      {listed.undone && <span className="pass-undone">undone</span>}
    </Group>
  );
}

const SIDES: readonly { value: PassSide | 'now'; label: string }[] = [
  { value: 'before', label: 'Before' },
  { value: 'after', label: 'After' },
  { value: 'now', label: 'As it stands' },
];

type ActsProps = { readonly pass: WholePass; readonly lane: LoggedLane };

/** Hearing a pass, and bringing back what it found or left. */
function PassActs({ pass, lane, range }: ActsProps & { readonly range: Range }): ReactNode {
  return (
    <Group gap="md" className="pass-acts" align="center">
      <Hearing range={range} />
      <BringingBack pass={pass} lane={lane} />
    </Group>
  );
}

function Hearing({ range }: { range: Range }): ReactNode {
  const { session, comparison } = useMoment();
  const listen = (): void => {
    if (session.isMoving) return session.stop(performance.now());
    if (comparison.heard === null) comparison.hear('after');
    void session.listen([range], performance.now(), { what: 'the passage', isAgain: false });
  };
  return (
    <Group gap={6} wrap="nowrap">
      <Tip label="Plays what the pass wrote; nothing is written meanwhile">
        <Button size="xs" radius="xl" variant="default" onClick={listen}>
          {session.isMoving ? 'Stop' : 'Listen'}
        </Button>
      </Tip>
      <Tip label="What is heard; B switches while it rolls">
        <SegmentedControl
          size="xs"
          aria-label="What is heard"
          data={[...SIDES]}
          value={comparison.heard?.side ?? 'now'}
          onChange={(to) => (to === 'now' ? comparison.asItStands() : comparison.hear(to as PassSide))}
        />
      </Tip>
    </Group>
  );
}

const NO_RANGE =
  'Set a range first: drag on the ruler in Ride, or I and O at the line. Then this lane is brought back in it alone.';

function BringingBack({ pass, lane }: ActsProps): ReactNode {
  const { control, comparison } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const range = useAppSelector((state) => state.view.range);
  const [side, setSide] = useState<PassSide>('before');
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const own = pass.lanes.filter((one) => one.control === lane.control);
  const bring = (lanes: readonly LoggedLane[], over: Range | null): void => {
    comparison.asItStands();
    control.bringBack(pass.number, lanes, side, over);
  };
  return (
    <Group gap={6} wrap="nowrap">
      <Text fz="sm" c="dimmed">
        Bring back
      </Text>
      <SegmentedControl
        size="xs"
        aria-label="Which side is brought back"
        data={[
          { value: 'before', label: 'before' },
          { value: 'after', label: 'after' },
        ]}
        value={side}
        onChange={(to) => setSide(to as PassSide)}
      />
      <Button size="xs" variant="default" onClick={() => bring(pass.lanes, null)}>
        All of it
      </Button>
      <Button size="xs" variant="default" onClick={() => bring(own, null)}>
        This lane
      </Button>
      <Button
        size="xs"
        variant="default"
        onClick={() => (range ? bring(own, range) : void store.dispatch(troubleCame(NO_RANGE)))}
      >
        {range ? `In ${shortBars(map, range[0])}–${shortBars(map, range[1])}` : 'In the range'}
      </Button>
    </Group>
  );
}
