import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Day } from '../../api/day';
import { useCommands } from '../../api/commands';
import { firstCutQuery } from '../../api/queries';
import type { FirstCutView, GroupView, KeptLineView, Seats } from '../../api/types';
import { seenOf } from '../../model/angles';
import { deviceName } from '../../model/names';
import { Button } from '../../parts/Button';

type Props = { day: Day; view: GroupView; onMade: (kept: KeptLineView[]) => void };

/** A first cut from who speaks: which camera shows who wears which microphone. */
export function FirstCut({ day, view, onMade }: Props) {
  const known = useQuery(firstCutQuery(view.id));
  if (known.isError) {
    return (
      <p role="status" className="pt-3 text-check">
        {known.error.message}
      </p>
    );
  }
  return known.data ? <Seating day={day} view={view} known={known.data} onMade={onMade} /> : null;
}

function Seating({ day, view, known, onMade }: Props & { known: FirstCutView }) {
  const run = useCommands();
  const [seats, setSeats] = useState<Seats>(known.seats);
  const [busy, setBusy] = useState(false);
  const devices = [...new Set(seenOf(view.group).flatMap(({ device }) => (device === null ? [] : [device])))];
  const of = (channel: string) => seats.seats.find((own) => own.channel === channel)?.devices[0];
  const seat = (channel: string, device: number | null) =>
    setSeats({
      ...seats,
      seats: [
        ...seats.seats.filter((own) => own.channel !== channel),
        ...(device === null ? [] : [{ channel, devices: [device] }]),
      ],
    });
  const make = async () => {
    setBusy(true);
    const kept = await run.firstCut(view.id, { name: 'First cut', seats });
    setBusy(false);
    if (kept) onMade(kept);
  };
  const select = (label: string, value: number | undefined, onChange: (device: number | null) => void) => (
    <select
      aria-label={label}
      value={value ?? ''}
      onChange={(event) => onChange(event.target.value === '' ? null : Number(event.target.value))}
      className="w-52 rounded-[3px] border border-line bg-sheet px-2 py-1"
    >
      <option value="">nobody’s own</option>
      {devices.map((device) => (
        <option key={device} value={device}>
          {deviceName(day, device)}
        </option>
      ))}
    </select>
  );
  const number = (name: 'least_s' | 'lead_s' | 'alone_s', words: string) => (
    <label className="flex items-center gap-1.5">
      <span className="text-soft">{words}</span>
      <input
        type="number"
        min={0}
        step={0.1}
        value={seats[name]}
        onChange={(event) => setSeats({ ...seats, [name]: Math.max(0, Number(event.target.value) || 0) })}
        className="num w-16 rounded-[3px] border border-line bg-sheet px-1 py-0.5"
      />
      <span className="text-soft">s</span>
    </label>
  );
  return (
    <section aria-label="First cut" className="mt-3 border-y border-line py-3">
      <p className="pb-2 text-soft">
        Which camera shows who wears which microphone? A voice that is heard in two counts for the nearer.
        What is chosen here is offered for the next groups, too.
      </p>
      <div className="grid grid-cols-[auto_1fr] items-center gap-x-4 gap-y-1.5">
        {known.channels.map((channel) => (
          <label key={channel} className="contents">
            <span className="num">{channel}</span>
            {select(`Who wears ${channel} is shown by`, of(channel), (device) => seat(channel, device))}
          </label>
        ))}
        <span className="text-soft">all are shown by</span>
        {select('All are shown by', seats.wide[0], (device) =>
          setSeats({ ...seats, wide: device === null ? [] : [device] }),
        )}
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 pt-3">
        {number('least_s', 'no shot under')}
        {number('lead_s', 'cut before the word by')}
        {number('alone_s', 'all where nobody speaks for')}
        <span className="flex-1" />
        <Button
          main
          disabled={busy || !seats.seats.some(({ devices: own }) => own.some((one) => devices.includes(one)))}
          onClick={() => void make()}
        >
          {busy ? 'Listening…' : 'Make it'}
        </Button>
      </div>
    </section>
  );
}
