import { memo, type ReactNode } from 'react';
import { IconHeadphones, IconVolume, IconVolumeOff } from '@tabler/icons-react';
import { mutedBy } from '@sure-hand/core/groups';
import { isHeardUnderSolo } from '@sure-hand/core/mix';
import { ownByHands } from '@sure-hand/core/pass';
import { channelOf, controlId, controlOf, controlsOfChannel, type Channel, type Song } from '@sure-hand/core/song';
import { useMutePress } from '../../open/useMutePress.js';
import { LOOKS, familyHue } from '../../parts/look.js';
import { useOfHands, useOpenSong } from '../../open/OpenSongProvider.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { laneChosen, takenInHand } from '../../store/viewSlice.js';
import { LaneButton, SpokenCap } from '../ride/laneParts.js';
import { Members } from '../ride/Members.js';
import { ModeMenu } from '../ride/ModeMenu.js';
import { Marks, ShortName } from '../ride/RowHead.js';
import { familiesOf } from '../ride/rideLayout.js';
import { DESK, rowOf, type Strip } from './deskLayout.js';

type Props = { readonly song: Song; readonly strip: Strip; readonly top: number };

/** Solo and mute of a strip. What a VCA mutes, and what others' solo keeps silent, is shown apart from its own mute. */
function StripActs({ song, channel, isNarrow }: { song: Song; channel: Channel; isNarrow: boolean }): ReactNode {
  const { control } = useOpenSong();
  const press = useMutePress(channel.key);
  const muters = useOfHands(({ session, control: { position } }) => {
    const own = ownByHands(session.recorder, session.heardSong, position);
    return mutedBy(session.recorder.song, channel.key, own).join(' ');
  });
  const by = muters ? muters.split(' ') : [];
  const isOwn = by.includes(controlId(channel.key, 'mute'));
  const vca = by.find((id) => id !== controlId(channel.key, 'mute'));
  const overName = vca && channelOf(song, controlOf(song, vca).channel)!.name;
  const isSilenced = !isHeardUnderSolo(song, channel.key);
  const muteWords = overName ? `Mute ${channel.name} (muted by ${overName})` : `Mute ${channel.name}`;
  const soloWords = isSilenced ? `Solo ${channel.name} (silent: others are soloed)` : `Solo ${channel.name}`;
  return (
    <div className="strip-acts">
      {channel.kind !== 'main' && (
        <PlainButton
          className={['small', channel.solo && 'is-solo', isSilenced && 'is-silenced'].filter(Boolean).join(' ')}
          aria-label={soloWords}
          title={soloWords}
          aria-pressed={channel.solo}
          onClick={(event) =>
            event.ctrlKey || event.metaKey ? control.soloAlone(channel.key) : control.toggleSolo(channel.key)
          }
        >
          {isNarrow ? <IconHeadphones size={14} /> : 'Solo'}
        </PlainButton>
      )}
      <PlainButton
        className={['small', isOwn && 'is-muted', overName && 'is-over'].filter(Boolean).join(' ')}
        aria-label={muteWords}
        title={muteWords}
        aria-pressed={isOwn}
        {...press}
      >
        {!isNarrow ? 'Mute' : isOwn || overName ? <IconVolumeOff size={14} /> : <IconVolume size={14} />}
      </PlainButton>
    </div>
  );
}

/** The name of a strip; Ctrl+click takes it to what is set, or ganged, together. */
function StripName({ strip }: { strip: Strip }): ReactNode {
  const dispatch = useAppDispatch();
  const { channel, control } = strip;
  return (
    <PlainButton
      className="strip-name"
      aria-label={channel.name}
      title={channel.name}
      onClick={(event) => dispatch(event.ctrlKey || event.metaKey ? laneChosen(control) : takenInHand(control))}
    >
      <ShortName name={channel.name} />
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
  const sends = px === 160 ? controlsOfChannel(song, channel).filter((one) => one.like.endsWith('/level')) : [];
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
        <StripActs song={song} channel={channel} isNarrow={isNarrow} />
        <div className="strip-naming">
          <span className="marks">
            <Marks song={song} row={row} />
            {!beside && <Members song={song} channel={channel} />}
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
