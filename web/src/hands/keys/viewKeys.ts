import type { Command } from './command.js';

/** Keys of undo and of passes cut short, and of what is looked at. */
export const viewKeys: readonly Command[] = [
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
  { id: 'undo', name: 'Undo', group: 'Steps', keys: 'mod+z', press: ({ control }) => void control.undo() },
  { id: 'redo', name: 'Redo', group: 'Steps', keys: 'mod+shift+z', press: ({ control }) => void control.redo() },
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
];
