import { askClip, askNote, askSection, setEdge } from '../commandScene.js';
import type { Command } from './command.js';

/** Keys of the range, and of what stands on the song’s time line. */
export const placeKeys: readonly Command[] = [
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
];
