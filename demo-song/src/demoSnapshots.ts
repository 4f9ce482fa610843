import type { Edit } from '@sure-hand/core/edits';
import {
  CONTROL_KINDS,
  controlId,
  controlOf,
  controlsOfChannel,
  guardSetWithDefaults,
  sendControlId,
  snapshotWithDefaults,
  type ControlId,
  type GuardSet,
  type Song,
} from '@sure-hand/core/song';
import { controlsTaken, valuesTaken } from '@sure-hand/core/snapshots';
import type { Seconds } from '@sure-hand/core/units';

const keysOf = (song: Song, family: string): string[] =>
  song.channels.filter((channel) => channel.family === family).map(({ key }) => key);

/** The strings and reeds as they are wanted in a chorus: pans further out, and more of their returns. */
const WIDE_PANS: readonly (readonly [string, number])[] = [
  ['nylon-guitar', 0.5],
  ['octave-mandolin', -0.75],
  ['fiddle', -0.6],
  ['accordion', 0.8],
];
const MORE_RETURN_DB = 3;

/** The voices as they are at a place of the first verse: levels, pans and sends come back, mutes do not. */
function verseVoices(song: Song, t: Seconds): Edit {
  const channels = keysOf(song, 'Voices').filter((key) => key !== 'count-in');
  const ids = controlsTaken(song, { channels, kinds: null });
  const filter = Object.fromEntries(channels.map((key) => [key, CONTROL_KINDS.filter((kind) => kind !== 'mute')]));
  const note = 'How the voices sit in the first verse.';
  const add = snapshotWithDefaults({
    ...{ key: 'verse-voices', name: 'Verse voices', note, t, filter },
    values: valuesTaken(song, ids, t),
  });
  return { kind: 'snapshot', remove: null, add };
}

function chorusWide(song: Song, t: Seconds): Edit {
  const keys = keysOf(song, 'Strings & reeds').filter((key) => key !== 'pump-organ');
  const pans = WIDE_PANS.filter(([key]) => keys.includes(key)).map(([key, v]) => [controlId(key, 'pan'), v] as const);
  const sends = keys.flatMap((key) => {
    const channel = song.channels.find((one) => one.key === key)!;
    return channel.sends.map(({ bus }): readonly [ControlId, number] => {
      const id = sendControlId(key, bus, 'level');
      return [id, (song.lanes[id]?.rest ?? controlOf(song, id).rest) + MORE_RETURN_DB];
    });
  });
  const add = snapshotWithDefaults({
    ...{ key: 'chorus-wide', name: 'Chorus wide', note: 'Strings and reeds further out, and wetter.', t },
    values: Object.fromEntries([...pans, ...sends]),
  });
  return { kind: 'snapshot', remove: null, add };
}

/** The rhythm safe in everything it has: for when the voices are being tried. */
function protectTheDrums(song: Song): Edit {
  const channels: { [key: string]: GuardSet['channels'][string] } = {};
  for (const key of keysOf(song, 'Rhythm')) {
    const channel = song.channels.find((one) => one.key === key)!;
    const kinds = new Set(controlsOfChannel(song, channel).map(({ kind }) => kind));
    channels[key] = { safe: CONTROL_KINDS.filter((kind) => kinds.has(kind)), parked: false };
  }
  const add = guardSetWithDefaults({ key: 'protect-the-drums', name: 'Protect the drums', channels });
  return { kind: 'guardSet', remove: null, add };
}

/** Whole states that the demo comes with: two snapshots, one of them placed, and a set of guards. Nothing where the song lacks their tracks. */
export function demoStates(song: Song): Edit[] {
  const sectionAt = (name: string): number | undefined => song.sections.find((section) => section.name === name)?.t;
  const [verse1, chorus1, verse2] = ['Verse 1', 'Chorus 1', 'Verse 2'].map(sectionAt);
  if (verse1 === undefined || chorus1 === undefined || verse2 === undefined || !keysOf(song, 'Voices').length)
    return [];
  return [
    verseVoices(song, verse1 + 8),
    chorusWide(song, chorus1 + 4),
    { kind: 'place', snapshot: 'chorus-wide', range: [chorus1, verse2], edge: 0.25 },
    protectTheDrums(song),
  ];
}
