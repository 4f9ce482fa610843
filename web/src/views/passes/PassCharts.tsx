import { startTransition, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import {
  Chart,
  Filler,
  LineController,
  LineElement,
  LinearScale,
  PointElement,
  type ChartData,
  type ChartOptions,
  type Scale,
} from 'chart.js';
import { Button, Group, Text } from '@mantine/core';
import { Line } from 'react-chartjs-2';
import { inSight, sidesAlong, type LoggedLane } from '@sure-hand/core/edits';
import { controlOf, type Song, layerScale } from '@sure-hand/core/song';
import type { Range } from '@sure-hand/core/curve';
import { barLines, meterMap, type MeterMap } from '@sure-hand/core/time';
import { throwMarks, type ThrowMark } from '@sure-hand/core/units';
import type { PassLoudness, WholePass } from '@sure-hand/server';
import { JobLine } from '../../parts/JobLine.js';
import { giveUp, jobBegun, useJobs } from '../../open/jobs.js';
import { FONT, LOOKS, type Look } from '../../parts/look.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useAppSelector } from '../../store/store.js';
import { measurePass } from '../../song/songApi.js';

Chart.register(LineController, LineElement, PointElement, LinearScale, Filler);

const STEPS = 400;
/** A chart is about so many pixels wide. */
const COLUMNS = 800;
/** All charts begin and end at the same places, so that they can be read one under the other. */
const LEFT_PX = 56;
type XY = { x: number; y: number };
const xys = (t: readonly number[], values: readonly number[]): XY[] => t.map((x, i) => ({ x, y: values[i]! }));

type Props = { readonly song: Song; readonly pass: WholePass; readonly lane: LoggedLane; readonly range: Range };

/** How many of some parts that take long to make are made: one more with each task, so that nothing waits for all of them. */
function useOneByOne(all: number): number {
  const [made, setMade] = useState(0);
  useEffect(() => {
    if (made >= all) return undefined;
    const next = setTimeout(() => startTransition(() => setMade(made + 1)));
    return () => clearTimeout(next);
  }, [made, all]);
  return made;
}

/** Old against new of one lane, their difference, and the loudness of the mix with either. */
export function PassCharts({ song, pass, lane, range }: Props): ReactNode {
  const scheme = useAppSelector((state) => state.view.scheme);
  const look = LOOKS[scheme];
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const [from, to] = range;
  const made = useOneByOne(2);
  const sides = useMemo(() => inSight(sidesAlong(song, lane, [from, to], STEPS), COLUMNS), [song, lane, from, to]);
  const shown = shownTravels([...sides.before, ...sides.after]);
  const marks = marksBetween(song, lane, shown);
  const worst = sides.difference.reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a), 0);
  const most = Math.max(1, Math.abs(worst));
  return (
    <div className="pass-charts">
      <Legend look={look} />
      <div className="pass-chart is-curve">
        {made > 0 && (
          <Line
            aria-label="Old and new curve"
            data={twoSides(look, xys(sides.t, sides.before), xys(sides.t, sides.after))}
            options={optionsOf(look, map, range, { marks, ...shown })}
          />
        )}
        <Playhead range={range} />
      </div>
      <Text fz="xs" c="dimmed" className="figures">
        Difference, at most {signed(worst)} {sides.unit}
      </Text>
      <div className="pass-chart">
        {made > 1 && (
          <Line
            aria-label={`Difference in ${sides.unit}`}
            data={{
              datasets: [
                {
                  data: xys(sides.t, sides.difference),
                  borderColor: look.bone,
                  backgroundColor: `${look.coral}55`,
                  borderWidth: 1.5,
                  pointRadius: 0,
                  fill: 'origin',
                },
              ],
            }}
            options={optionsOf(look, map, range, { min: -most, max: most })}
          />
        )}
        <Playhead range={range} />
      </div>
      <Loudness pass={pass} range={range} look={look} map={map} />
    </div>
  );
}

/** The part of the throw that the curves are in, with room around them: small moves are to be seen too. */
function shownTravels(travels: readonly number[]): { min: number; max: number } {
  const room = 0.12;
  return {
    min: Math.max(-0.02, Math.min(...travels) - room),
    max: Math.min(1.02, Math.max(...travels) + room),
  };
}

/** So many marks can be read beside a chart. */
const MOST_MARKS = 7;

/** Marks of the throw that are within sight, as fine as can be read. */
function marksBetween(
  song: Song,
  { control, layer }: LoggedLane,
  { min, max }: { min: number; max: number },
): ThrowMark[] {
  const scale = layerScale(controlOf(song, control), layer);
  const marks = throwMarks(scale, scale.fineMarks ?? scale.marks);
  const seen = marks.filter(({ travel }) => travel >= min && travel <= max);
  const every = Math.ceil(seen.length / MOST_MARKS);
  return seen.filter((mark, i) => mark.isMain || i % every === 0);
}

const signed = (value: number): string => `${value > 0 ? '+' : value < 0 ? '−' : ''}${Math.abs(value).toFixed(1)}`;

function Legend({ look }: { look: Look }): ReactNode {
  return (
    <Group gap="md">
      {(['before', 'after'] as const).map((side) => (
        <Group key={side} gap={6}>
          <svg width="26" height="8">
            <path
              d="M0 4h26"
              stroke={side === 'before' ? look.quiet : look.coral}
              strokeWidth={side === 'before' ? 1.5 : 2.5}
              strokeDasharray={side === 'before' ? '4 3' : undefined}
            />
          </svg>
          <Text fz="xs">{side === 'before' ? 'As the pass found it' : 'As it left it'}</Text>
        </Group>
      ))}
    </Group>
  );
}

const twoSides = (look: Look, before: XY[], after: XY[]): ChartData<'line', XY[]> => ({
  datasets: [
    { data: before, borderColor: look.quiet, borderDash: [4, 3], borderWidth: 1.5, pointRadius: 0 },
    { data: after, borderColor: look.coral, borderWidth: 2.5, pointRadius: 0 },
  ],
});

/** How a chart stands: over the range, bars below, and on its left marks of a throw or plain numbers. */
function optionsOf(
  look: Look,
  map: MeterMap,
  [from, to]: Range,
  y: { marks?: readonly ThrowMark[]; min: number; max: number },
): ChartOptions<'line'> {
  const bars = barLines(map, from, to);
  const every = Math.max(1, Math.ceil(bars.length / 16));
  const shown = bars.filter(({ bar }) => (bar - 1) % every === 0);
  const font = { family: FONT, size: 12 };
  const { marks } = y;
  return {
    animation: false,
    responsive: true,
    maintainAspectRatio: false,
    parsing: false,
    normalized: true,
    events: [],
    scales: {
      x: {
        type: 'linear',
        min: from,
        max: to,
        grid: { color: look.line },
        border: { color: look.line },
        afterBuildTicks: (axis: Scale) => void (axis.ticks = shown.map(({ t }) => ({ value: t }))),
        ticks: {
          color: look.quiet,
          font,
          maxRotation: 0,
          autoSkip: false,
          callback: (_v, i) => String(shown[i]?.bar ?? ''),
        },
      },
      y: {
        type: 'linear',
        min: y.min,
        max: y.max,
        grid: { color: look.line },
        border: { color: look.line },
        afterFit: (axis: Scale) => void (axis.width = LEFT_PX),
        ...(marks
          ? { afterBuildTicks: (axis: Scale) => void (axis.ticks = marks.map(({ travel }) => ({ value: travel }))) }
          : {}),
        ticks: {
          color: look.quiet,
          font,
          ...(marks ? { autoSkip: false } : { maxTicksLimit: 5 }),
          callback: (v, i) => (marks ? (marks[i]?.label ?? '') : `${signed(Number(v))}`),
        },
      },
    },
  };
}

/** Where the song is heard, over a chart. */
function Playhead({ range: [from, to] }: { range: Range }): ReactNode {
  const { engine } = useOpenSong();
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    const tick = (): void => {
      const share = (engine.positionAt(performance.now()) - from) / (to - from);
      const isIn = share >= 0 && share <= 1;
      if (line.current) {
        line.current.style.display = isIn ? 'block' : 'none';
        line.current.style.left = `calc(${LEFT_PX}px + ${share} * (100% - ${LEFT_PX}px))`;
      }
      frame = requestAnimationFrame(tick);
    };
    tick();
    return () => cancelAnimationFrame(frame);
  }, [engine, from, to]);
  return <div ref={line} className="pass-playhead" />;
}

/** Short-term loudness of the mix with either side, measured when asked for: the server renders both. */
function Loudness({ pass, range, look, map }: { pass: WholePass; range: Range; look: Look; map: MeterMap }): ReactNode {
  const { id } = useOpenSong();
  const [measured, setMeasured] = useState<PassLoudness | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [asked, setAsked] = useState<string | null>(null);
  const jobs = useJobs(
    (job) => job.id === asked,
    (job) => {
      if (job.state === 'failed') setTrouble(job.sentence);
      if (job.state === 'done') setMeasured(job.result as PassLoudness);
    },
  );
  const working = jobs.filter((job) => job.state === 'working');
  const measure = (): void => {
    setTrouble(null);
    void measurePass(id, pass.number, range).then(
      (job) => setAsked(jobBegun(job).id),
      (error: Error) => setTrouble(error.message),
    );
  };
  if (working[0]) return <JobLine job={working[0]} onCancel={() => giveUp(working[0]!)} />;
  const isOfRange = measured?.from === range[0];
  if (!measured || !isOfRange)
    return (
      <Group gap="sm">
        <Button size="xs" variant="default" onClick={measure}>
          Measure the loudness of both
        </Button>
        <Text fz="xs" c={trouble ? 'hand' : 'dimmed'}>
          {trouble ?? 'Short-term loudness of the whole mix, with this pass and without it.'}
        </Text>
      </Group>
    );
  const times = measured.before.map((_, i) => measured.from + (i + 1) * measured.stepSec);
  const heard = [...measured.before, ...measured.after].filter((v) => v > -70);
  const [low, high] = heard.length ? [Math.floor(Math.min(...heard)) - 1, Math.ceil(Math.max(...heard)) + 1] : [-60, 0];
  const most = measured.after.reduce((a, v, i) => {
    const by = v - measured.before[i]!;
    return Math.abs(by) > Math.abs(a) ? by : a;
  }, 0);
  return (
    <>
      <Text fz="xs" c="dimmed" className="figures">
        Short-term loudness of the mix, LUFS: at most {signed(most)} LU apart
      </Text>
      <div className="pass-chart is-loudness" data-testid="loudness">
        <Line
          aria-label="Short-term loudness of the mix"
          data={twoSides(look, xys(times, measured.before), xys(times, measured.after))}
          options={optionsOf(look, map, range, { min: low, max: high })}
        />
        <Playhead range={range} />
      </div>
    </>
  );
}
