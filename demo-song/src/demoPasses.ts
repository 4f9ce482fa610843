import type { HandEvent } from '@sure-hand/core/pass';
import { type Edit } from '@sure-hand/core/edits';
import { CONTROL_KINDS, type Song } from '@sure-hand/core/song';

/** What a hand did for the demo: a moves list, and what the pass it made is called in the log. */
export type DemoPass = { readonly name: string; readonly note: string; readonly moves: readonly HandEvent[] };

/** Hands move so often in these lists. */
const MOVES_A_SEC = 25;
/** A hand is never quite even: it wavers so much, in dB. */
const WAVER_DB = 0.12;

type Place = { readonly t: number; readonly v: number };
type Hand = { readonly control: string; readonly path: readonly Place[]; readonly holds?: boolean };

/** A hand that goes from place to place, easing in and out of each; it lets go at the last, unless it holds on. */
function ride({ control, path, holds }: Hand): HandEvent[] {
  const [first, last] = [path[0]!, path.at(-1)!];
  const events: HandEvent[] = [{ t: first.t, do: 'touch', control }];
  const steps = Math.round((last.t - first.t) * MOVES_A_SEC);
  for (let i = 0; i <= steps; i++) {
    const t = first.t + ((last.t - first.t) * i) / steps;
    const k = Math.max(
      0,
      path.findLastIndex((place) => place.t <= t),
    );
    const [a, b] = [path[k]!, path[k + 1] ?? path[k]!];
    const u = b.t > a.t ? (t - a.t) / (b.t - a.t) : 1;
    const v = a.v + (b.v - a.v) * (0.5 - 0.5 * Math.cos(Math.PI * u));
    const isMoving = a.v !== b.v && v > -60;
    events.push({
      t,
      do: 'move',
      control,
      value: v + (isMoving ? WAVER_DB * Math.sin(5.3 * t) * Math.sin(Math.PI * u) : 0),
    });
  }
  return holds ? events : [...events, { t: last.t, do: 'release', control }];
}

const setMode = (channel: string, mode: 'read' | 'touch' | 'latch'): HandEvent => ({ do: 'mode', channel, mode });

/** Where the passes of the demo lie, in seconds. */
type Places = Readonly<Record<'verse1' | 'chorus2' | 'solo' | 'bridge' | 'lastChorus' | 'outro' | 'end', number>>;

/** What a control of the song rests at. */
const restOf = (song: Song, id: string): number => song.lanes[id]?.rest ?? 0;

/** The passes that the demo comes with: two of its notes are solved by them. Nothing where the song lacks their tracks. */
export function demoPasses(song: Song): DemoPass[] {
  const sectionAt = (name: string): number | undefined => song.sections.find((section) => section.name === name)?.t;
  const [verse1, chorus2, solo, bridge, lastChorus, outro] = [
    ...['Verse 1', 'Chorus 2', 'Fiddle solo', 'Bridge', 'Last chorus', 'Outro'],
  ].map(sectionAt);
  const has = [
    'mill-wheel',
    'harmony-low',
    'harmony-high',
    'nylon-guitar',
    'accordion',
    'count-in',
    'vca-rhythm',
  ].every((key) => song.channels.some((channel) => channel.key === key));
  if (!has || verse1 === undefined || chorus2 === undefined || solo === undefined) return [];
  if (bridge === undefined || lastChorus === undefined || outro === undefined) return [];
  const places = { verse1, chorus2, solo, bridge, lastChorus, outro, end: song.length };
  return [millIn, millOut, harmonies, nylonUp, accordionSwells, rhythmBack, hallOpens].map((make) =>
    make(song, places),
  );
}

const MILL = 'mill-wheel/level';

const millIn = (song: Song, { verse1 }: Places): DemoPass => ({
  name: 'Mill wheel fades in',
  note: 'Poised at silence, then ridden up over the intro.',
  moves: [
    setMode('mill-wheel', 'latch'),
    { do: 'move', control: MILL, value: -144 },
    { do: 'play', from: 0 },
    ...ride({
      control: MILL,
      path: [
        { t: 0.6, v: -58 },
        { t: verse1 - 0.5, v: restOf(song, MILL) },
      ],
    }),
    { t: verse1, do: 'stop' },
  ],
});

const millOut = (song: Song, { outro, end }: Places): DemoPass => ({
  name: 'Mill wheel fades out',
  note: '',
  moves: [
    { do: 'play', from: outro - 2 },
    ...ride({
      control: MILL,
      path: [
        { t: outro, v: restOf(song, MILL) },
        { t: end - 3, v: -58 },
        { t: end - 2.5, v: -144 },
      ],
      holds: true,
    }),
    { t: end, do: 'stop' },
    setMode('mill-wheel', 'read'),
  ],
});

function harmonies(song: Song, { chorus2, solo }: Places): DemoPass {
  const control = 'harmony-low/level';
  const rest = restOf(song, control);
  const byDb = 3;
  return {
    name: 'Harmonies behind the Lead',
    note: 'One hand on the low one, a little deeper in the second half: their gang takes the high one along.',
    moves: [
      setMode('harmony-low', 'touch'),
      setMode('harmony-high', 'touch'),
      { do: 'play', from: chorus2 - 3 },
      ...ride({
        control,
        path: [
          { t: chorus2 + 0.2, v: rest },
          { t: chorus2 + 1.4, v: rest - byDb },
          { t: (chorus2 + solo) / 2, v: rest - byDb - 0.8 },
          { t: (chorus2 + solo) / 2 + 2, v: rest - byDb + 0.6 },
          { t: solo - 1.2, v: rest - byDb },
        ],
      }),
      { t: solo + 1, do: 'stop' },
      setMode('harmony-low', 'read'),
      setMode('harmony-high', 'read'),
    ],
  };
}

const nylonUp = (_song: Song, { verse1 }: Places): DemoPass => ({
  name: 'Nylon guitar, a touch up',
  note: 'As trim: not folded yet.',
  moves: [
    setMode('nylon-guitar', 'touch'),
    { do: 'trim', channel: 'nylon-guitar', on: true },
    { do: 'play', from: verse1 - 1 },
    ...ride({
      control: 'nylon-guitar/level',
      path: [
        { t: verse1 + 1, v: 0 },
        { t: verse1 + 3, v: 2.4 },
        { t: verse1 + 12, v: 1.6 },
        { t: verse1 + 15, v: 0.2 },
      ],
    }),
    { t: verse1 + 17, do: 'stop' },
    { do: 'trim', channel: 'nylon-guitar', on: false },
    setMode('nylon-guitar', 'read'),
  ],
});

function accordionSwells(song: Song, { chorus2 }: Places): DemoPass {
  const control = 'accordion/level';
  const rest = restOf(song, control);
  return {
    name: 'Accordion swells',
    note: 'Parked: not sure of them.',
    moves: [
      setMode('accordion', 'touch'),
      { do: 'play', from: chorus2 - 1 },
      ...ride({
        control,
        path: [
          { t: chorus2, v: rest },
          { t: chorus2 + 3, v: rest + 3 },
          { t: chorus2 + 6, v: rest - 2 },
          { t: chorus2 + 9, v: rest + 2 },
        ],
      }),
      { t: chorus2 + 11, do: 'stop' },
      setMode('accordion', 'read'),
      { do: 'park', control, on: true },
      { do: 'safe', channel: 'count-in', kinds: CONTROL_KINDS },
    ],
  };
}

const rhythmBack = (_song: Song, { solo, bridge }: Places): DemoPass => ({
  name: 'Rhythm back in the solo',
  note: 'Its VCA alone is written: the drums keep their own lanes.',
  moves: [
    setMode('vca-rhythm', 'touch'),
    { do: 'play', from: solo - 2 },
    ...ride({
      control: 'vca-rhythm/level',
      path: [
        { t: solo + 0.1, v: 0 },
        { t: solo + 1.4, v: -2 },
        { t: bridge - 4, v: -2.4 },
        { t: bridge - 1, v: -0.4 },
      ],
    }),
    { t: bridge, do: 'stop' },
    setMode('vca-rhythm', 'read'),
  ],
});

const hallOpens = (song: Song, { lastChorus, outro }: Places): DemoPass => {
  const control = 'hall/insert/reverb/decay';
  const rest = restOf(song, control);
  return {
    name: 'The Hall opens for the last chorus',
    note: 'Its reverb’s decay, as an insert’s every parameter can be ridden.',
    moves: [
      setMode('hall', 'touch'),
      { do: 'play', from: lastChorus - 2 },
      ...ride({
        control,
        path: [
          { t: lastChorus + 0.1, v: rest },
          { t: lastChorus + 2, v: rest + 0.9 },
          { t: outro - 2, v: rest + 1.1 },
          { t: outro + 0.5, v: rest },
        ],
      }),
      { t: outro + 2, do: 'stop' },
      setMode('hall', 'read'),
    ],
  };
};

/** The notes that these passes have solved say so. */
export function solvedNotes(song: Song): Edit[] {
  const solved = [
    { channel: 'harmony-low', by: 'pass 3' },
    { channel: 'mill-wheel', by: 'passes 1 and 2' },
  ];
  if (!demoPasses(song).length) return [];
  return song.notes.flatMap((note): Edit[] => {
    const by = solved.find(({ channel }) => channel === note.channel)?.by;
    return by
      ? [{ kind: 'mark', list: 'notes', remove: note, add: { ...note, text: `Done in ${by}: ${note.text}` } }]
      : [];
  });
}
