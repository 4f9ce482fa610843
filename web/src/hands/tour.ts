import { effectiveValueAt } from '@sure-hand/core/groups';
import { sectionRanges } from '@sure-hand/core/edits';
import type { Range } from '@sure-hand/core/curve';
import {
  channelOf,
  controlId,
  controlsOf,
  insertControlId,
  ownValueAt,
  sendControlId,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { PAN_SCALE, printDb, type Seconds } from '@sure-hand/core/units';

/** How a note measures: solved or not, and in words with what is wanted. */
export type Measured = { readonly isSolved: boolean; readonly words: string };

/** Where a step of the tour is: the view, the place, what comes to hand, and the range that it is about. */
export type TourPlace = {
  readonly view: string;
  readonly t: Seconds;
  readonly control: ControlId;
  readonly range: Range | null;
};

/** One step of the tour: what it is about, what will happen, what to do in order, where; and how it measures. */
export type TourStep = {
  readonly id: string;
  readonly title: string;
  readonly will: string;
  readonly acts: readonly string[];
  readonly place: (song: Song) => TourPlace;
  readonly measure: ((song: Song) => Measured) | null;
};

const EVERY_SEC: Seconds = 0.5;
/** A ride leads in and lets go: so much at either end of a section says nothing. */
const MARGIN_SEC: Seconds = 2;
/** Rolling begins so long before the place that a step is about. */
const LEAD_SEC: Seconds = 2;

const section = (song: Song, name: string): Range =>
  sectionRanges(song.sections, song.length).find((one) => one.name === name)?.range ?? [0, song.length];

/** What a control is heard at in a section, on average. */
function meanIn(song: Song, id: ControlId, [from, to]: Range): number {
  let sum = 0;
  let count = 0;
  for (let t = from + MARGIN_SEC; t < to - MARGIN_SEC; t += EVERY_SEC, count++) sum += effectiveValueAt(song, id, t);
  return sum / Math.max(1, count);
}

/** By how much a control is heard louder in one section than in another, with what is wanted. */
const risen =
  (id: ControlId, name: string, [in_, than]: readonly [string, string], wanted: readonly [number, number]) =>
  (song: Song): Measured => {
    const db = meanIn(song, id, section(song, in_)) - meanIn(song, id, section(song, than));
    const words = `${name} in ${in_}: ${printDb(db, true)} against ${than}; wanted: about ${printDb((wanted[0] + wanted[1]) / 2, true)}.`;
    return { isSolved: db >= wanted[0] && db <= wanted[1], words };
  };

const LEAD = controlId('lead', 'level');
const ORGAN = controlId('pump-organ', 'level');
const FIDDLE = controlId('fiddle', 'level');
const PUMP_HOUSE = controlId('pump-house', 'level');
const CLARINET = controlId('clarinet', 'pan');
const THROW = sendControlId('lead', 'hall', 'level');
const CHOIR = controlId('choir', 'mute');
const VOICES = controlId('vca-voices', 'level');
const RUMBLE = insertControlId('pump-house', 'filter', 'cutoff');

function leadOverOrgan(song: Song): Measured {
  const over = (name: string): number =>
    meanIn(song, LEAD, section(song, name)) - meanIn(song, ORGAN, section(song, name));
  const db = over('Verse 2') - over('Verse 1');
  return {
    isSolved: db >= 6 && db <= 12,
    words: `Lead over Pump organ in Verse 2: ${printDb(db, true)} against Verse 1; wanted: about +8.0 dB.`,
  };
}

function clarinetCrosses(song: Song): Measured {
  const [from, to] = section(song, 'Bridge');
  const at = (t: Seconds): number => ownValueAt(song, CLARINET, t).base;
  const [left, right] = [at(from + 1), at(to - 1)];
  return {
    isSolved: left <= -0.4 && right >= 0.4,
    words: `Clarinet pan in the Bridge: from ${PAN_SCALE.print(left)} to ${PAN_SCALE.print(right)}; wanted: left to right.`,
  };
}

/** Where the last word of the Bridge is, by its note. */
const wordAt = (song: Song): Seconds =>
  song.notes.find(({ text }) => text.includes('last word'))?.t ?? section(song, 'Bridge')[1] - 4;

function wordThrown(song: Song): Measured {
  const word = wordAt(song);
  const end = section(song, 'Bridge')[1];
  const at = (t: Seconds): number => effectiveValueAt(song, THROW, t);
  const before = at(word - 4);
  let most = before;
  for (let t = word - 0.5; t < end; t += 0.05) most = Math.max(most, at(t));
  const isBack = Math.abs(at(end + 3) - before) < 1;
  return {
    isSolved: most - before >= 8 && isBack,
    words: `Hall send on the word: ${printDb(most - before, true)}${isBack ? '' : ', and it stays up after it'}; wanted: about +12.0 dB, and back.`,
  };
}

/** Where a high pass takes a rumble away and leaves a room: from, to, in Hz; and what it lets all through. */
const CLEARED = { from: 60, to: 170, open: 30 } as const;

function rumbleGone(song: Song): Measured {
  const verse = section(song, 'Verse 2');
  const hz = meanIn(song, RUMBLE, verse);
  const after = effectiveValueAt(song, RUMBLE, verse[1] + MARGIN_SEC);
  const isBack = after <= CLEARED.open;
  const said = `${hz.toFixed(0)} Hz in Verse 2${isBack ? '' : `, and it stays at ${after.toFixed(0)} Hz after it`}`;
  return {
    isSolved: hz >= CLEARED.from && hz <= CLEARED.to && isBack,
    words: `The Pump house’s filter: ${said}; wanted: about 90 Hz, and back.`,
  };
}

/** The coughs that are in the two verses. */
const COUGHS = 5;

function coughsMuted(song: Song): Measured {
  const isIn = (t: Seconds, [from, to]: Range): boolean => t >= from - 1 && t < to + 1;
  const verses = ['Verse 1', 'Verse 2'].map((name) => section(song, name));
  const { points } = song.lanes[CHOIR] ?? { points: [] };
  let muted = 0;
  let wasOn = false;
  for (const { t, v } of points) {
    const isOn = v >= 0.5;
    if (isOn && !wasOn && verses.some((verse) => isIn(t, verse))) muted++;
    wasOn = isOn;
  }
  return {
    isSolved: muted >= COUGHS,
    words: `The Choir is muted ${muted} times in the verses; there are ${COUGHS} coughs.`,
  };
}

const ride = (control: ControlId, range: Range): TourPlace => ({
  view: 'ride',
  t: Math.max(0, range[0] - LEAD_SEC),
  control,
  range,
});

/** The tour through the demo song’s notes, in the order of the song’s making: first two that are done, to be listened to. */
const TOUR: readonly TourStep[] = [
  {
    id: 'wheel',
    title: 'Note 8, done: the Mill wheel fades in',
    will: 'Passes keeps every pass with what it found and what it left. You will hear the Intro with the fade and without it; nothing is written.',
    acts: ['Listen: press the button, or Space', 'B: before, and after, while it rolls', 'Space stops'],
    place: (song) => ({
      view: 'passes?pass=1',
      t: 0,
      control: controlId('mill-wheel', 'level'),
      range: section(song, 'Intro'),
    }),
    measure: null,
  },
  {
    id: 'harmonies',
    title: 'Note 4, done: the harmonies cover the Lead no more',
    will: 'Pass 3 took both harmonies down in Chorus 2, by one hand and their gang. Listen to it against what it found.',
    acts: ['Listen, and B while it rolls', 'Shift+B on a control says who wrote it there'],
    place: (song) => ({
      view: 'passes?pass=3',
      t: section(song, 'Chorus 2')[0],
      control: controlId('harmony-low', 'level'),
      range: section(song, 'Chorus 2'),
    }),
    measure: null,
  },
  {
    id: 'fiddle',
    title: 'Note 2: the Fiddle is 5 dB too low in its solo',
    will: 'In touch a pass writes from your press to your release, and then goes back to the curve by itself: the solo will be louder, the rest of the song stays.',
    acts: [
      '3: the Fiddle in touch',
      'Space: it rolls from just before the solo',
      'Take the Fiddle’s cap on the line with the mouse, or hold T and press ↑, and ride it up about 5 dB until the solo ends; let go',
      'Space stops. B: before and after',
    ],
    place: (song) => ride(FIDDLE, section(song, 'Fiddle solo')),
    measure: risen(FIDDLE, 'The Fiddle', ['Fiddle solo', 'Intro'], [3.5, 7]),
  },
  {
    id: 'organ',
    title: 'Note 1: the Lead sinks under the Pump organ',
    will: 'The VCA Voices stands over all voices: riding it lifts them together, and writes its own curve alone. Theirs stay as they are.',
    acts: [
      '3: the VCA in touch',
      'Space, and ride its cap up about 8 dB through Verse 2',
      'Let go as the verse ends; Space stops',
      'Alt+E shows its members beside it',
    ],
    place: (song) => ride(VOICES, section(song, 'Verse 2')),
    measure: leadOverOrgan,
  },
  {
    id: 'pump-house',
    title: 'Note 3: the Pump house should open up in the Last chorus',
    will: 'With trim on, a hand gives an offset that is added to the curve, and waits apart from it until it is folded.',
    acts: [
      '3: in touch, and 0: trim on',
      'Space, and ride the offset up about 5 dB through the Last chorus',
      'Let go, Space stops. F folds the trim into the curve; 0 takes trim off',
    ],
    place: (song) => ride(PUMP_HOUSE, section(song, 'Last chorus')),
    measure: risen(PUMP_HOUSE, 'The Pump house', ['Last chorus', 'Chorus 1'], [3.5, 7]),
  },
  {
    id: 'clarinet',
    title: 'Note 5: the Clarinet crosses from left to right',
    will: 'Poised while it stands, the pan writes from the punch range’s start exactly, and nothing outside the range is written.',
    acts: [
      'U: punch over the range, which is the Bridge',
      '4: latch. Arrow down or = and L 70: the pan is poised on the left',
      'Space: it is written from where the Bridge begins; hold T and press ↑, or ride the cap, until it is on the right as the Bridge ends',
      'Space stops; U: punch off',
    ],
    place: (song) => ride(CLARINET, section(song, 'Bridge')),
    measure: clarinetCrosses,
  },
  {
    id: 'word',
    title: 'Note 6: throw the last word into the Hall',
    will: 'A send is a control like any other. In touch it goes back by itself: only the word goes into the Hall.',
    acts: [
      '3: the Lead in touch; its Hall send is in hand',
      'Space; on the last word, hold the cap up about 12 dB, and let go before the Last chorus',
      'Space stops. E plays the edges',
    ],
    place: (song) => ({
      view: 'ride',
      t: wordAt(song) - 3,
      control: THROW,
      range: [wordAt(song), section(song, 'Bridge')[1]],
    }),
    measure: wordThrown,
  },
  {
    id: 'coughs',
    title: 'Note 7: coughs on the Choir, to mute',
    will: 'In touch M mutes as long as it is held, and each time is a span of its own: the phrases stay as they are.',
    acts: [
      '3: the Choir in touch',
      'Space; hold M on each cough between the phrases of Verse 1, and again in Verse 2',
      'Space stops. Alt+N shows the points; a cough you missed is drawn in with Insert',
    ],
    place: (song) => ride(CHOIR, section(song, 'Verse 1')),
    measure: coughsMuted,
  },
  {
    id: 'rumble',
    title: 'Note 9: the Pump house rumbles in Verse 2',
    will: 'Every parameter of an insert is a lane: its filter is ridden as a level is, and goes back by itself. A high pass at 20 Hz takes nothing away.',
    acts: [
      '3: the Pump house in touch, and its trim off (0, where it is on); its filter’s cutoff is in hand',
      'Alt+Shift+E shows the filter with the room’s sound behind it: drag its cap, or hold T and press ↑',
      'Space, and ride it up to about 90 Hz through Verse 2; let go as the verse ends',
      'Space stops. B: before and after',
    ],
    place: (song) => ride(RUMBLE, section(song, 'Verse 2')),
    measure: rumbleGone,
  },
];

/** The steps of the tour that a song has what they are about: one made by an earlier version may lack an insert. */
export const tourOf = (song: Song): readonly TourStep[] =>
  TOUR.filter(({ place }) => controlsOf(song).has(place(song).control));

/** Whether a song is the one that the tour is about. */
export const isToured = (song: Song): boolean =>
  [LEAD, ORGAN, FIDDLE, PUMP_HOUSE, CLARINET, THROW, CHOIR, VOICES].every((id) => controlsOf(song).has(id)) &&
  ['Verse 1', 'Verse 2', 'Fiddle solo', 'Bridge', 'Last chorus'].every((name) =>
    song.sections.some((one) => one.name === name),
  ) &&
  channelOf(song, 'mill-wheel') !== undefined;
