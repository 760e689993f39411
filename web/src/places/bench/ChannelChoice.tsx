import type { ClipView } from '../../api/types';
import { channelsOf } from '../../model/channels';

type Props = { clip: ClipView; channel: number | null; onChoose: (channel: number | null) => void };

/** Which of a clip's channels is looked at; nothing where there is no choice. */
export function ChannelChoice({ clip, channel, onChoose }: Props) {
  const channels = channelsOf(clip);
  if (channels.length < 2) return null;
  return (
    <select
      aria-label={`Channel of ${clip.file_name}`}
      value={channel ?? ''}
      onPointerDown={(event) => event.stopPropagation()}
      onChange={(event) => {
        onChoose(event.target.value === '' ? null : Number(event.target.value));
        event.target.blur();
      }}
      className="max-w-[150px] rounded-[3px] border border-line bg-sheet px-1 text-[12px] font-normal text-ink"
    >
      <option value="">all channels</option>
      {channels.map(({ number, name }) => (
        <option key={number} value={number}>
          {name}
        </option>
      ))}
    </select>
  );
}
