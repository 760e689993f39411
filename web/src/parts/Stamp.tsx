import type { DeviceView } from '../api/types';

/** The hue of a device: one of eight, by its place in the order; never without its letter. */
export function hue(devices: DeviceView[], id: number | null): `var(--d${number})` {
  const index = devices.findIndex((device) => device.id === id);
  const device = devices[index];
  // Sound recorders wear ink, as on paper.
  if (device?.letter === 'R') return 'var(--d4)';
  const hues = [0, 1, 2, 3, 5, 6, 7];
  return `var(--d${hues[Math.max(index, 0) % hues.length] ?? 0})`;
}

type Props = {
  devices: DeviceView[];
  /** The device; none where it is not known yet. */
  id: number | null;
  /** Which of several of that device, from 0. */
  rank?: number;
  dark?: boolean;
};

/** A device's letter in a small stamp. */
export function Stamp({ devices, id, rank = 0, dark }: Props) {
  const device = devices.find((one) => one.id === id);
  const colour = dark ? '#dce7e2' : hue(devices, id);
  return (
    <span
      className="inline-flex h-[18px] min-w-[18px] shrink-0 items-center justify-center rounded-[2px] border-[1.5px] px-[3px] font-mono text-[11px]"
      style={{ color: colour, borderColor: colour }}
    >
      {id === null ? '·' : (device?.letter ?? '?')}
      {rank > 0 && rank + 1}
    </span>
  );
}
