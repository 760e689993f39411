import { useState } from 'react';
import { useCommands } from '../../api/commands';
import type { GroupView, KeptLineView } from '../../api/types';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';

type Props = { view: GroupView; onMade: (kept: KeptLineView[]) => void };

/** A cut on the beats or bars of the group's music, angles in turn. */
export function MusicCut({ view, onMade }: Props) {
  const run = useCommands();
  const [every, setEvery] = useState(2);
  const [bars, setBars] = useState(true);
  const [busy, setBusy] = useState(false);
  const make = async () => {
    setBusy(true);
    const kept = await run.musicCut(view.id, { name: 'Cut on the music', every, bars });
    setBusy(false);
    if (kept) onMade(kept);
  };
  return (
    <section
      aria-label="Cut on the music"
      className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2 border-y border-line py-3"
    >
      <label className="flex items-center gap-1.5">
        <span className="text-soft">Another angle every</span>
        <input
          type="number"
          min={1}
          max={1000}
          value={every}
          onChange={(event) => setEvery(Math.max(1, Math.round(Number(event.target.value) || 1)))}
          className="num w-16 rounded-[3px] border border-line bg-sheet px-1 py-0.5"
        />
      </label>
      <Choice label="" value={bars ? 'bars' : 'beats'} onChange={(own) => setBars(own === 'bars')}>
        <option value="bars">bars</option>
        <option value="beats">beats</option>
      </Choice>
      <span className="flex-1 text-soft">Beats and bars are found in the group’s sound.</span>
      <Button main disabled={busy} onClick={() => void make()}>
        {busy ? 'Listening…' : 'Make it'}
      </Button>
    </section>
  );
}
