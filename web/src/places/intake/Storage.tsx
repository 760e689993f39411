import { useQuery } from '@tanstack/react-query';
import { useCommands, useRefresh } from '../../api/commands';
import { storageQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import { bytes } from '../../model/format';

/** The space that derived files take, and how to get it back. */
export function Storage({ day }: { day: Day }) {
  const { clearStorage } = useCommands();
  const refresh = useRefresh();
  const ready = day.clips.filter((clip) => clip.proxy).length;
  const storage = useQuery(storageQuery(ready));
  if (!storage.data || day.clips.length === 0) return null;
  const clear = async () => {
    await clearStorage();
    await refresh.storage();
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
