import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import type { ClipView } from '../../api/types';
import { metres } from '../../model/format';
import { Metres } from '../../parts/Metres';

/** How far a clip's microphone is from what it shows: its own distance, else that of its device. */
export function Distance({ day, clip }: { day: Day; clip: ClipView }) {
  const { edit } = useCommands();
  const device = day.devices.find((one) => one.id === clip.device);
  const placed = day.placements.find((one) => one.clip === clip.id)?.placement;
  const given = clip.distance_m ?? device?.distance_m ?? 0;
  // What a pass laid by something else than sound has no way to travel.
  const heard = placed?.evidence.some((one) => one.kind === 'waveform' && one.used) ?? false;
  const waits = heard && Math.abs(given / SOUND_M_PER_S - (placed?.travel_s ?? 0)) > 1e-6;
  return (
    <section aria-label="Distance" className="border-t border-line py-2">
      <h3 className="font-semibold">Distance</h3>
      <label className="flex items-center gap-1.5 pt-1">
        Mic to subject
        <Metres
          label={`Distance of the microphone of ${clip.file_name}`}
          value={clip.distance_m}
          otherwise={device?.distance_m ? `${metres(device.distance_m)} as ${device.letter}` : 'no distance'}
          onSave={(cm) => void edit({ do: 'clip_distance', clips: [clip.id], distance_cm: cm })}
          className="w-24 border-line!"
        />
      </label>
      {waits && <p className="pt-1 text-soft">It counts at the next pass.</p>}
    </section>
  );
}

/** Speed of sound at 20 °C. */
const SOUND_M_PER_S = 343.4;
