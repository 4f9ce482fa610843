import { levelParts } from '@sure-hand/core/groups';
import { ownByHands } from '@sure-hand/core/pass';
import { controlId, type Channel } from '@sure-hand/core/song';
import { dbOfGain, printDb } from '@sure-hand/core/units';
import type { OpenSong } from '../../open/openSong.js';

/** What a channel's meter reads, in figures: its peak, the highest of a while, and the gain after its fader with the VCAs over it. */
export function meterWords({ meters, engine, session, control }: OpenSong, { key, name, kind }: Channel): string {
  if (kind === 'vca') return '';
  const { peaks, held } = meters.read(key, engine.meterOf(key), performance.now());
  const own = ownByHands(session.recorder, session.heardSong, control.position);
  const { sum } = levelParts(session.recorder.song, controlId(key, 'level'), own);
  const words = (gain: number): string => printDb(dbOfGain(gain));
  return `${name}: peak ${words(Math.max(...peaks))}, highest ${words(held)}. After the fader: ${printDb(sum)}. A click clears the marks`;
}
