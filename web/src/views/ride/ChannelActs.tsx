import type { ReactNode } from 'react';
import { IconHeadphones, IconVolume, IconVolumeOff } from '@tabler/icons-react';
import { mutedBy } from '@sure-hand/core/groups';
import { isHeardUnderSolo } from '@sure-hand/core/mix';
import { ownByHands } from '@sure-hand/core/pass';
import { channelOf, controlId, controlOf, type Channel, type ControlId, type Song } from '@sure-hand/core/song';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useMutePress } from '../../parts/useMutePress.js';
import { useOfMoment } from '../../open/useMoment.js';
import { PlainButton } from '../../parts/PlainButton.js';

/** What mutes a channel at the moment: itself, a VCA over it, or both. */
function useMuters(song: Song, { key }: Channel): { readonly isOwn: boolean; readonly vca: string | null } {
  const own = controlId(key, 'mute');
  const muters = useOfMoment(({ session, control: { position } }) => {
    const { recorder, heardSong } = session;
    if (!channelOf(recorder.song, key)) return '';
    return mutedBy(recorder.song, key, ownByHands(recorder, heardSong, position)).join(' ');
  });
  const by: ControlId[] = muters ? muters.split(' ') : [];
  const over = by.find((id) => id !== own);
  const channel = over === undefined ? undefined : channelOf(song, controlOf(song, over).channel);
  return { isOwn: by.includes(own), vca: channel?.name ?? null };
}

type Props = {
  readonly song: Song;
  readonly channel: Channel;
  readonly className: string;
  /** Only room for pictures of them. */
  readonly isNarrow?: boolean;
};

/** Solo and mute of a channel. What a VCA mutes, and what others' solo keeps silent, is shown apart from its own mute. */
export function ChannelActs({ song, channel, className, isNarrow = false }: Props): ReactNode {
  const { control } = useOpenSong();
  const press = useMutePress(channel.key);
  const { isOwn, vca } = useMuters(song, channel);
  const isSilenced = !isHeardUnderSolo(song, channel.key);
  const muteWords = vca ? `Mute ${channel.name} (muted by ${vca})` : `Mute ${channel.name}`;
  const soloWords = isSilenced ? `Solo ${channel.name} (silent: others are soloed)` : `Solo ${channel.name}`;
  return (
    <div className={channel.solo || isOwn ? `${className} is-on` : className}>
      {channel.kind !== 'main' && (
        <PlainButton
          className={['small', channel.solo && 'is-solo', isSilenced && 'is-silenced'].filter(Boolean).join(' ')}
          aria-label={soloWords}
          title={`${soloWords}. Ctrl+click: no other (Alt+X)`}
          aria-pressed={channel.solo}
          onClick={(event) =>
            event.ctrlKey || event.metaKey ? control.soloAlone(channel.key) : control.toggleSolo(channel.key)
          }
        >
          {isNarrow ? <IconHeadphones size={14} /> : 'Solo'}
        </PlainButton>
      )}
      <PlainButton
        className={['small', isOwn && 'is-muted', vca && 'is-over'].filter(Boolean).join(' ')}
        aria-label={muteWords}
        title={muteWords}
        aria-pressed={isOwn}
        {...press}
      >
        {!isNarrow ? 'Mute' : isOwn || vca ? <IconVolumeOff size={14} /> : <IconVolume size={14} />}
      </PlainButton>
    </div>
  );
}
