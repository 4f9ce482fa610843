import { MODES, channelOf, controlOf, type ControlId, controlId } from '@sure-hand/core/song';
import {
  askClip,
  askNote,
  askSection,
  carryOn,
  channelInHand,
  compare,
  now,
  playEdges,
  setEdge,
  takeLane,
  takeNext,
  withChannel,
  withHand,
  type CommandScene,
} from './commandScene.js';

/** Something a key can do. `release` is what letting the key up does. */
export type Command = {
  readonly id: string;
  readonly name: string;
  readonly group: 'Transport' | 'In hand' | 'Modes' | 'Passes' | 'Guards' | 'Range' | 'Song' | 'View' | 'Steps';
  readonly keys: string;
  readonly press: (scene: CommandScene) => void;
  readonly release?: (scene: CommandScene) => void;
  /** Where it says no, the key is left to the page. */
  readonly fits?: (scene: CommandScene) => boolean;
};

const mute = (key: string | null): ControlId | null => (key ? controlId(key, 'mute') : null);
const fits = ({ onView }: CommandScene): boolean => onView.length > 0;
const modeNames = { off: 'Off', read: 'Read', touch: 'Touch', latch: 'Latch', write: 'Write' } as const;

/** All commands with the keys they come with; a person can change any of them. One list, so that no key is given twice: it is long. */
export const COMMANDS: readonly Command[] = [
  {
    id: 'play',
    name: 'Play or stop',
    group: 'Transport',
    keys: 'space',
    press: ({ control }) => void control.togglePlay(),
  },
  {
    id: 'return',
    name: 'Back to where play began',
    group: 'Transport',
    keys: 'enter',
    press: ({ control }) => void control.returnToStart(),
  },
  {
    id: 'stepBack',
    name: 'Back to where the line was',
    group: 'Transport',
    keys: 'backspace',
    press: ({ control }) => void control.stepBack(),
  },
  {
    id: 'loop',
    name: 'Loop the range on or off',
    group: 'Transport',
    keys: 'l',
    press: ({ song, control, range }) => control.setLoop(song.settings.loop ? null : range),
  },
  {
    id: 'letGo',
    name: 'Let go of everything',
    group: 'In hand',
    keys: 'escape',
    press: ({ control }) => control.letGo(),
  },
  {
    id: 'hold',
    name: 'Touch the control in hand while held',
    group: 'In hand',
    keys: 't',
    press: withHand(({ control }, id) => control.press(id, now())),
    release: withHand(({ control }, id) => control.release(id, now())),
  },
  {
    id: 'up',
    name: 'Move it up',
    group: 'In hand',
    keys: 'up',
    press: withHand(({ control }, id) => control.nudge(id, 1, false)),
  },
  {
    id: 'down',
    name: 'Move it down',
    group: 'In hand',
    keys: 'down',
    press: withHand(({ control }, id) => control.nudge(id, -1, false)),
  },
  {
    id: 'upFine',
    name: 'Move it up finely',
    group: 'In hand',
    keys: 'shift+up',
    press: withHand(({ control }, id) => control.nudge(id, 1, true)),
  },
  {
    id: 'downFine',
    name: 'Move it down finely',
    group: 'In hand',
    keys: 'shift+down',
    press: withHand(({ control }, id) => control.nudge(id, -1, true)),
  },
  { id: 'type', name: 'Type its value', group: 'In hand', keys: 'equal', press: ({ typeValue }) => typeValue() },
  {
    id: 'mute',
    name: 'Mute (held, in touch)',
    group: 'In hand',
    keys: 'm',
    press: (scene) => {
      const id = mute(channelInHand(scene));
      if (id) scene.control.pressSwitch(id, now());
    },
    release: (scene) => {
      const id = mute(channelInHand(scene));
      if (id) scene.control.release(id, now());
    },
  },
  {
    id: 'solo',
    name: 'Solo',
    group: 'In hand',
    keys: 's',
    press: (scene) => {
      const key = channelInHand(scene);
      if (key) scene.control.toggleSolo(key);
    },
  },
  { id: 'next', name: 'Next row', group: 'In hand', keys: 'tab', fits, press: (scene) => takeNext(scene, 1) },
  {
    id: 'previous',
    name: 'Row before',
    group: 'In hand',
    keys: 'shift+tab',
    fits,
    press: (scene) => takeNext(scene, -1),
  },
  {
    id: 'nextLane',
    name: 'Next lane of the channel',
    group: 'In hand',
    keys: 'right',
    press: (scene) => takeLane(scene, 1),
  },
  { id: 'previousLane', name: 'Lane before', group: 'In hand', keys: 'left', press: (scene) => takeLane(scene, -1) },
  { id: 'find', name: 'Find a control', group: 'In hand', keys: 'slash', press: ({ find }) => find() },
  ...MODES.map((mode, i): Command => ({
    id: `mode-${mode}`,
    name: modeNames[mode],
    group: 'Modes',
    keys: String(i + 1),
    press: (scene) => {
      const key = channelInHand(scene);
      if (key) scene.control.setMode(key, mode);
    },
  })),
  {
    id: 'trim',
    name: 'Trim on or off',
    group: 'Modes',
    keys: '0',
    press: withChannel(({ song, control }, key) => control.setTrim(key, !channelOf(song, key)!.trim)),
  },
  ...MODES.map((mode, i): Command => ({
    id: `desk-${mode}`,
    name: `Desk mode: ${modeNames[mode].toLowerCase()} for every channel`,
    group: 'Modes',
    keys: `alt+${i + 1}`,
    press: ({ control }) => control.setDesk(mode),
  })),
  {
    id: 'desk-none',
    name: 'Modes per channel: desk mode off',
    group: 'Modes',
    keys: 'alt+0',
    press: ({ control }) => control.setDesk(null),
  },
  {
    id: 'writing',
    name: 'How passes write: scope, return, thinning',
    group: 'Passes',
    keys: 'w',
    press: ({ ask }) => ask({ what: 'writing' }),
  },
  {
    id: 'list',
    name: 'What a pass writes: the list',
    group: 'Passes',
    keys: 'shift+w',
    press: ({ ask }) => ask({ what: 'list' }),
  },
  {
    id: 'compare',
    name: 'Before or after the pass, by ear',
    group: 'Passes',
    keys: 'b',
    press: (scene) => void compare(scene),
  },
  {
    id: 'receipt',
    name: 'What the last pass did, once more',
    group: 'Passes',
    keys: 'r',
    press: ({ recallPass }) => recallPass(),
  },
  {
    id: 'edges',
    name: 'Play the edges',
    group: 'Passes',
    keys: 'e',
    press: (scene) => void playEdges(scene),
  },
  {
    id: 'carryOn',
    name: 'Carry the span’s end on to the next stop',
    group: 'Passes',
    keys: 'shift+right',
    press: (scene) => carryOn(scene, 1),
  },
  {
    id: 'carryBack',
    name: 'Carry its beginning back to the stop before',
    group: 'Passes',
    keys: 'shift+left',
    press: (scene) => carryOn(scene, -1),
  },
  {
    id: 'fold',
    name: 'Fold the channel’s trim',
    group: 'Passes',
    keys: 'f',
    press: withChannel(({ control }, key) => control.foldTrim(key)),
  },
  {
    id: 'foldAll',
    name: 'Fold all trim',
    group: 'Passes',
    keys: 'shift+f',
    press: ({ control }) => control.foldTrim(null),
  },
  {
    id: 'safe',
    name: 'Safe, the control in hand',
    group: 'Guards',
    keys: 'j',
    press: withHand(({ control }, id) => control.toggleSafe(id)),
  },
  {
    id: 'safeKind',
    name: 'Safe, its kind on the channel',
    group: 'Guards',
    keys: 'alt+j',
    press: withHand(({ song, control }, id) => {
      const { channel, kind } = controlOf(song, id);
      control.toggleSafeKind(channel, kind);
    }),
  },
  {
    id: 'park',
    name: 'Park the control in hand',
    group: 'Guards',
    keys: 'k',
    press: withHand(({ control }, id) => control.togglePark(id)),
  },
  {
    id: 'parkChannel',
    name: 'Park the channel',
    group: 'Guards',
    keys: 'alt+k',
    press: withChannel(({ control }, key) => control.toggleParkChannel(key)),
  },
  {
    id: 'parkSong',
    name: 'Park the whole song',
    group: 'Guards',
    keys: 'alt+shift+k',
    press: ({ control }) => control.toggleParkSong(),
  },
  {
    id: 'punch',
    name: 'Punch over the range on or off',
    group: 'Range',
    keys: 'u',
    press: ({ song, control, range, say }) => {
      if (song.settings.punch) return control.setPunch(null);
      if (range) return control.setPunch(range);
      say('Set a range first, with I and O or by dragging on the ruler: then U punches over it.');
    },
  },
  {
    id: 'rangeIn',
    name: 'Range begins at the line',
    group: 'Range',
    keys: 'i',
    press: (scene) => setEdge(scene, 'in'),
  },
  {
    id: 'rangeOut',
    name: 'Range ends at the line',
    group: 'Range',
    keys: 'o',
    press: (scene) => setEdge(scene, 'out'),
  },
  { id: 'rangeNone', name: 'No range', group: 'Range', keys: 'shift+i', press: ({ setRange }) => setRange(null) },
  { id: 'section', name: 'Section at the line', group: 'Song', keys: 'shift+s', press: askSection },
  { id: 'note', name: 'Note at the line', group: 'Song', keys: 'shift+n', press: askNote },
  { id: 'clip', name: 'Clip at the line: fades, gain', group: 'Song', keys: 'c', press: askClip },
  {
    id: 'song',
    name: 'Name, tempo and meter',
    group: 'Song',
    keys: 'shift+t',
    press: ({ ask }) => ask({ what: 'song' }),
  },
  {
    id: 'keepCutShort',
    name: 'Keep the first pass that was cut short',
    group: 'Steps',
    keys: 'shift+k',
    press: ({ settleCutShort }) => settleCutShort(true),
  },
  {
    id: 'dropCutShort',
    name: 'Drop the first pass that was cut short',
    group: 'Steps',
    keys: 'shift+d',
    press: ({ settleCutShort }) => settleCutShort(false),
  },
  {
    id: 'cutShort',
    name: 'Passes that were cut short',
    group: 'Steps',
    keys: 'alt+c',
    press: ({ ask }) => ask({ what: 'cutShort' }),
  },
  { id: 'view', name: 'Next view', group: 'View', keys: 'v', press: ({ showView }) => showView(1) },
  { id: 'viewBefore', name: 'View before', group: 'View', keys: 'shift+v', press: ({ showView }) => showView(-1) },
  { id: 'meters', name: 'Clear peaks and clips', group: 'View', keys: 'x', press: ({ clearMeters }) => clearMeters() },
  {
    id: 'closer',
    name: 'Zoom in',
    group: 'View',
    keys: 'bracketright',
    press: ({ zoom, secPerScreen }) => zoom(secPerScreen / 1.5),
  },
  {
    id: 'wider',
    name: 'Zoom out',
    group: 'View',
    keys: 'bracketleft',
    press: ({ zoom, secPerScreen }) => zoom(secPerScreen * 1.5),
  },
  {
    id: 'wholeSong',
    name: 'The whole song',
    group: 'View',
    keys: 'shift+bracketleft',
    press: ({ zoom, song }) => zoom(song.length),
  },
  {
    id: 'taller',
    name: 'Rows taller',
    group: 'View',
    keys: 'shift+period',
    press: ({ scaleHeights }) => scaleHeights(1.2),
  },
  {
    id: 'lower',
    name: 'Rows lower',
    group: 'View',
    keys: 'shift+comma',
    press: ({ scaleHeights }) => scaleHeights(1 / 1.2),
  },
  { id: 'keys', name: 'All keys', group: 'View', keys: 'shift+slash', press: ({ showKeys }) => showKeys() },
  { id: 'undo', name: 'Undo', group: 'Steps', keys: 'mod+z', press: ({ control }) => void control.undo() },
  { id: 'redo', name: 'Redo', group: 'Steps', keys: 'mod+shift+z', press: ({ control }) => void control.redo() },
];

const STORED = 'sure-hand/keys';

/** Keys that a person has changed, by command. */
export function changedKeys(): { readonly [command: string]: string } {
  try {
    return JSON.parse(localStorage.getItem(STORED) ?? '{}') as Record<string, string>;
  } catch {
    return {};
  }
}

export function keepChangedKeys(keys: { readonly [command: string]: string }): void {
  localStorage.setItem(STORED, JSON.stringify(keys));
}

/** Puts changed keys in place of those that commands come with. */
export const withKeys = (changed: { readonly [command: string]: string }): Command[] =>
  COMMANDS.map((command) => ({ ...command, keys: changed[command.id] ?? command.keys }));

const WORDS: Record<string, string> = {
  space: 'Space',
  enter: 'Enter',
  escape: 'Esc',
  backspace: 'Backspace',
  up: '↑',
  down: '↓',
  left: '←',
  right: '→',
  equal: '=',
  slash: '/',
  bracketleft: '[',
  bracketright: ']',
  period: '.',
  comma: ',',
  tab: 'Tab',
  shift: 'Shift',
  alt: 'Alt',
  mod: 'Ctrl',
};

/** Keys for reading: `Shift+Ctrl+Z`. */
export const printKeys = (keys: string): string =>
  keys === 'shift+slash'
    ? '?'
    : keys
        .split('+')
        .map((key) => WORDS[key] ?? key.toUpperCase())
        .join('+');
