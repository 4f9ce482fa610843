import { memo, type ReactNode } from 'react';
import {
  carriesAudio,
  controlOf,
  controlsOfChannel,
  insertName,
  isLevel,
  type Channel,
  type Song,
} from '@sure-hand/core/song';
import { LOOKS, familyHue } from '../../parts/look.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { askedFor, laneChosen, takenInRow } from '../../store/viewSlice.js';
import { ChannelActs } from '../ride/ChannelActs.js';
import { LaneButton, SpokenCap } from '../ride/laneParts.js';
import { Members } from '../ride/Members.js';
import { ModeMenu } from '../ride/ModeMenu.js';
import { Marks, ShortName } from '../ride/RowHead.js';
import { familiesOf } from '../ride/rideLayout.js';
import { DESK, rowOf, type Strip } from './deskLayout.js';

type Props = { readonly song: Song; readonly strip: Strip; readonly top: number };

/** So many letters of a name stand in two lines; a longer one is shortened in its middle. */
const LONG_NAME = 22;

/** The name of a strip; Ctrl+click takes it to what is set, or ganged, together. */
function StripName({ strip }: { strip: Strip }): ReactNode {
  const dispatch = useAppDispatch();
  const { channel, control } = strip;
  return (
    <PlainButton
      className={channel.name.length > LONG_NAME ? 'strip-name is-long' : 'strip-name'}
      aria-label={channel.name}
      title={channel.name}
      onClick={(event) => dispatch(event.ctrlKey || event.metaKey ? laneChosen(control) : takenInRow(strip))}
    >
      <ShortName name={channel.name} />
    </PlainButton>
  );
}

/** How many inserts a strip has, which opens them; on wide strips also where there is none yet. */
function InsertsMark({ strip }: { strip: Strip }): ReactNode {
  const dispatch = useAppDispatch();
  const { channel, px } = strip;
  const count = channel.inserts.length;
  if (!carriesAudio(channel) || (!count && px !== 160)) return null;
  return (
    <PlainButton
      className="strip-inserts"
      aria-label={`${count || 'No'} ${count === 1 ? 'insert' : 'inserts'} of ${channel.name}`}
      title={count ? channel.inserts.map((one) => insertName(channel.inserts, one)).join(', ') : 'Insert an effect'}
      onClick={() => {
        dispatch(takenInRow(strip));
        dispatch(askedFor({ what: 'inserts' }));
      }}
    >
      {count ? `Ins ${count}` : 'Insert…'}
    </PlainButton>
  );
}

/** What stands on the throw where that is no level, and what kind of channel it is where that is no track. */
const whatIs = ({ kind }: Channel, control: string | null): string =>
  control ?? (kind === 'vca' ? 'VCA' : kind === 'bus' ? 'bus' : '');

/** The foot of a strip: what is on the throw, mode, guards, solo and mute, name; on wide ones its sends. */
export const StripFoot = memo(function StripFoot({ song, strip, top }: Props): ReactNode {
  const { scheme, inHand, chosen } = useViewParts('scheme', 'inHand', 'chosen');
  const { channel, control, px, left, family, beside } = strip;
  const isNarrow = px === 44;
  const row = rowOf(strip, 0);
  const what = controlOf(song, control);
  const states = [inHand === control && 'is-in-hand', chosen.includes(control) && 'is-chosen', beside && 'is-beside'];
  const hue = familyHue(familiesOf(song), family, LOOKS[scheme]);
  const sends =
    px === 160 ? controlsOfChannel(song, channel).filter((one) => one.kind === 'sends' && isLevel(one)) : [];
  return (
    <section
      className={['strip-foot', `px-${px}`, ...states.filter(Boolean)].join(' ')}
      style={{ left: left + DESK.scalePx, top, width: px - 1, height: DESK.footPx, borderBottomColor: hue }}
      data-testid={`strip-${beside ? `${beside}-` : ''}${channel.key}`}
      aria-label={`${channel.name} ${what.name.toLowerCase()}`}
    >
      <SpokenCap row={row} />
      <div className="strip-left">
        <ModeMenu song={song} row={row} />
        <ChannelActs song={song} channel={channel} className="strip-acts" isNarrow={isNarrow} />
        <div className="strip-naming">
          <span className="marks">
            <Marks song={song} row={row} />
            {!beside && <Members song={song} channel={channel} />}
            {!beside && <InsertsMark strip={strip} />}
          </span>
          <div className="strip-names">
            <StripName strip={strip} />
            <span className="strip-what">{whatIs(channel, what.kind === 'level' ? null : what.name)}</span>
          </div>
        </div>
      </div>
      {sends.length > 0 && (
        <div className="strip-sends">
          {sends.map((send) => (
            <LaneButton key={send.id} control={send} isFront={send.id === control} />
          ))}
        </div>
      )}
    </section>
  );
});
