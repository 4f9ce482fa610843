import type { Range } from '@sure-hand/core/curve';
import type { ChannelKey, Clip, ControlId, Note, Section } from '@sure-hand/core/song';

/** What is open to be typed into, above the hand bar or beside the lanes; `null` marks are new ones, to be put at `t`. */
export type Asked =
  | { readonly what: 'section'; readonly mark: Section | null; readonly t: number }
  | { readonly what: 'note'; readonly mark: Note | null; readonly t: number; readonly channel: ChannelKey | null }
  /** A clip of a channel, by where it begins. */
  | { readonly what: 'clip'; readonly channel: ChannelKey; readonly at: Clip['t'] }
  | { readonly what: 'song' }
  /** How passes write: desk mode, write scope, return time and the like. */
  | { readonly what: 'writing' }
  /** Every control with what a pass does, would do or did to it. */
  | { readonly what: 'list' }
  /** Fewer points: of a range, a lane, a channel or the song. */
  | { readonly what: 'thin' }
  /** Points taken away, by scope. */
  | { readonly what: 'clear' }
  /** A shape at a musical rate over the range. */
  | { readonly what: 'wave' }
  /** The sway of the control in hand. */
  | { readonly what: 'sway' }
  /** The picked points: exact time, value and shape. */
  | { readonly what: 'points' }
  /** The lanes of the channel in hand, by name. */
  | { readonly what: 'lanes' }
  /** The picture of the insert in hand. */
  | { readonly what: 'effect' }
  /** The inserts of the channel in hand. */
  | { readonly what: 'inserts' }
  /** Points moved and scaled, or a range lifted, by numbers. */
  | { readonly what: 'shift' }
  /** What was copied, put elsewhere. */
  | { readonly what: 'paste' }
  /** Gangs: one made of what is chosen, others changed or dissolved. */
  | { readonly what: 'gangs' }
  /** VCA groups: made, changed, folded into their members, dissolved. */
  | { readonly what: 'vcas' }
  /** Channels and buses, what they send to and where they go out. */
  | { readonly what: 'channels' }
  /** A snapshot to be taken at the line. */
  | { readonly what: 'take' }
  /** Why a control is what it is at the line. */
  | { readonly what: 'origin'; readonly id: ControlId }
  /** All that is held aside, with how far it is from its curves. */
  | { readonly what: 'aside' }
  /** Values, or a snapshot's, put into a range or into sections: placed, or ramped to. */
  | {
      readonly what: 'place';
      readonly how: 'place' | 'ramp';
      readonly snapshot?: string;
      readonly ranges?: readonly Range[];
    }
  /** Passes that were cut short, each to be kept or dropped. */
  | { readonly what: 'cutShort' };
