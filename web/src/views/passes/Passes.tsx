import { useEffect, useRef, type ReactNode, type RefObject } from 'react';
import { Alert, Text, UnstyledButton } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import dayjs from 'dayjs';
import { useSearchParams } from 'react-router';
import type { Receipt } from '@sure-hand/core/edits';
import { type Song, channelNamed } from '@sure-hand/core/song';
import type { LoggedPass } from '@sure-hand/server';
import { useAppSelector } from '../../store/store.js';
import { printCount } from '../../hands/countWords.js';
import { entryName, entryTitle } from '../../hands/entryWords.js';
import { reachWords } from '../../hands/reachWords.js';
import { leftWords } from '../../hands/reasonWords.js';
import { Tip } from '../../parts/Tip.js';
import { PassDetail } from './PassDetail.js';
import { PruneLog } from './PruneLog.js';
import { usePasses } from './usePasses.js';

/** The log: every pass that wrote something, and the placings beside them, newest first, and the one that is opened. */
export function Passes(): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const { value: passes, trouble, again } = usePasses();
  const [search, setSearch] = useSearchParams();
  const box = useRef<HTMLElement>(null);
  const asked = Number(search.get('pass'));
  const open = passes?.find((pass) => pass.number === asked) ?? passes?.[0] ?? null;
  return (
    <main className="page passes">
      <section ref={box} className="passes-log" aria-label="Passes">
        {trouble && (
          <Alert color="hand" variant="light">
            {trouble}
          </Alert>
        )}
        {passes?.length === 0 && (
          <Text c="dimmed" p="md">
            No pass has written anything yet. Put a channel in touch (3), press Space and ride its cap: every pass is
            kept here, with what it found and what it left.
          </Text>
        )}
        <PassLines
          passes={passes ?? []}
          song={song}
          open={open?.number ?? null}
          box={box}
          onOpen={(number) => setSearch({ pass: String(number) }, { replace: true })}
        />
        <PruneLog entries={passes?.length ?? 0} onPruned={again} />
      </section>
      {open && <PassDetail key={open.number} listed={open} onDescribed={again} />}
    </main>
  );
}

/** What a pass wrote: by name where it is little, of a control that is gone its id; else by number. */
const lanesOf = (song: Song, { lanes }: Receipt): string =>
  reachWords(song, { lanes, channels: new Set(lanes.map(({ control }) => channelNamed(control))).size });

/** How high a line of the log is at first sight, and how many more are there than are seen. */
const LINE_PX = 64;
const MORE_LINES = 12;

type LinesProps = {
  readonly passes: readonly LoggedPass[];
  readonly song: Song;
  readonly open: number | null;
  readonly box: RefObject<HTMLElement | null>;
  readonly onOpen: (number: number) => void;
};

/** The lines of the log that are in sight, and some about them: of a thousand passes nobody sees more. */
function PassLines({ passes, song, open, box, onOpen }: LinesProps): ReactNode {
  const lines = useVirtualizer({
    count: passes.length,
    getScrollElement: () => box.current,
    estimateSize: () => LINE_PX,
    getItemKey: (i) => passes[i]!.number,
    overscan: MORE_LINES,
  });
  const place = passes.findIndex(({ number }) => number === open);
  // One that was asked for from elsewhere is brought into sight.
  useEffect(() => {
    if (place > MORE_LINES) lines.scrollToIndex(place, { align: 'auto' });
    // Only as another one is opened: a longer log does not scroll.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [open]);
  return (
    <div className="pass-lines" style={{ height: lines.getTotalSize() }}>
      {lines.getVirtualItems().map(({ index, key, start }) => {
        const pass = passes[index]!;
        return (
          <div key={key} ref={lines.measureElement} data-index={index} style={{ transform: `translateY(${start}px)` }}>
            <PassLine pass={pass} song={song} isOpen={pass.number === open} onOpen={() => onOpen(pass.number)} />
          </div>
        );
      })}
    </div>
  );
}

function PassLine({
  pass,
  song,
  isOpen,
  onOpen,
}: {
  pass: LoggedPass;
  song: Song;
  isOpen: boolean;
  onOpen: () => void;
}): ReactNode {
  const { number, at, undone, receipt, name, left } = pass;
  const points = receipt.lanes.reduce((sum, lane) => sum + lane.points, 0);
  const lanes = lanesOf(song, receipt);
  const called = name ?? entryName(song, pass, lanes);
  return (
    <UnstyledButton
      className={['pass-line', isOpen ? 'is-open' : '', undone ? 'is-undone' : ''].join(' ')}
      aria-current={isOpen}
      aria-label={`${entryTitle(pass)}${undone ? ', undone' : ''}: ${called ?? lanes}`}
      onClick={onOpen}
    >
      <span className="pass-number">{number}</span>
      <span className="pass-words">
        <span className="pass-name">{called ?? lanes}</span>
        <span className="pass-more">
          {called ? `${lanes} · ` : ''}
          {printCount(points)} points · {dayjs(at).format('D MMM, HH:mm')}
        </span>
        <PassStrip song={song} receipt={receipt} />
      </span>
      {left.length > 0 && (
        <Tip label={leftWords(song, left)} multiline maw={360}>
          <span className="pass-left">{left.length === 1 ? 'one lane' : `${left.length} lanes`} left alone</span>
        </Tip>
      )}
      {undone && (
        <Tip label="Undone: its curves are kept here all the same">
          <span className="pass-undone">undone</span>
        </Tip>
      )}
    </UnstyledButton>
  );
}

/** Where a pass wrote, small over the song's sections. */
function PassStrip({ song, receipt }: { song: Song; receipt: Receipt }): ReactNode {
  const per = (t: number): string => `${(100 * t) / song.length}%`;
  return (
    <span className="pass-strip" aria-hidden>
      {song.sections.map(({ t }) => (
        <span key={t} className="pass-section" style={{ left: per(t) }} />
      ))}
      {receipt.lanes.flatMap(({ control, layer, spans }) =>
        spans.map(([from, to]) => (
          <span
            key={`${layer} ${control} ${from}`}
            className="pass-span"
            style={{ left: per(from), width: `max(2px, ${per(to - from)})` }}
          />
        )),
      )}
    </span>
  );
}
