import { useQuery, useQueryClient } from '@tanstack/react-query';
import { get, post } from '../../api/client';
import type { DayView, StorageView } from '../../api/types';
import { bytes } from '../../format';
import { useAsk } from '../../parts/message';

/** The space that derived files take, and how to get it back. */
export function Storage({ day }: { day: DayView }) {
  const ask = useAsk();
  const client = useQueryClient();
  const ready = day.clips.filter((clip) => clip.proxy).length;
  const storage = useQuery({ queryKey: ['storage', ready], queryFn: () => get<StorageView>('/storage') });
  if (!storage.data || day.clips.length === 0) return null;
  const clear = async () => {
    await ask(post('/storage/clear', {}));
    await client.invalidateQueries({ queryKey: ['storage'] });
  };
  return (
    <p className="border-t border-line pt-2 text-soft">
      Proxies and waveforms: <span className="num">{bytes(storage.data.bytes)}</span>, kept within{' '}
      <span className="num">{bytes(storage.data.limit)}</span>.{' '}
      <button
        type="button"
        className="underline"
        title="Removes proxies, waveforms and features and makes them again. Nothing you made is in them."
        onClick={() => void clear()}
      >
        clear
      </button>
    </p>
  );
}
