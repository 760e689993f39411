import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import type { DeviceView } from '../../api/types';
import { Editable } from '../../parts/Editable';
import { Metres } from '../../parts/Metres';
import { hue } from '../../parts/Stamp';

type Props = { day: Day; onShow: (clips: number[]) => void };

/** Devices: lettered, named and ordered where they stand; their number shows their clips. */
export function Devices({ day, onShow }: Props) {
  const { edit } = useCommands();
  const name = (device: DeviceView, change: Partial<DeviceView>) => {
    const { letter, name } = { ...device, ...change };
    void edit({ do: 'name_device', device: device.id, letter, name });
  };
  const move = (device: number, by: number) => void edit({ do: 'move_device', device, by });
  // Only a picture can be early against its own sound.
  const seen = new Set(day.clips.filter((clip) => clip.facts.picture).map((clip) => clip.device));
  return (
    <section aria-label="Devices" className="pt-3">
      <h2 className="pb-1 font-semibold">Devices</h2>
      {day.devices.length === 0 && <p className="text-soft">They are named by their folders.</p>}
      <ul>
        {day.devices.map((device, i) => (
          <li
            key={device.id}
            className="group flex h-7 items-center gap-1.5 border-t border-line"
            title={`From ${device.folder}`}
          >
            <span aria-hidden className="h-3 w-[3px]" style={{ background: hue(day.devices, device.id) }} />
            <Editable
              label={`Letter of ${device.name}`}
              value={device.letter}
              max={2}
              onSave={(letter) => name(device, { letter })}
              className="num w-6 rounded-[2px] border-[1.5px]! text-center"
            />
            <Editable
              label={`Name of device ${device.letter}`}
              value={device.name}
              onSave={(text) => name(device, { name: text })}
              className="flex-1"
            />
            {seen.has(device.id) && (
              <span title="How far its microphone is from what it shows: its clips lie so much later than they hear">
                <Metres
                  label={`Distance of ${device.name}'s microphone`}
                  value={device.distance_m || null}
                  otherwise="– m"
                  onSave={(cm) => void edit({ do: 'distance', device: device.id, distance_cm: cm ?? 0 })}
                  className="w-11 text-[12px]"
                />
              </span>
            )}
            <button
              type="button"
              aria-label={`Move ${device.name} up`}
              disabled={i === 0}
              className="px-0.5 text-soft disabled:opacity-30"
              onClick={() => move(device.id, -1)}
            >
              ↑
            </button>
            <button
              type="button"
              aria-label={`Move ${device.name} down`}
              disabled={i === day.devices.length - 1}
              className="px-0.5 text-soft disabled:opacity-30"
              onClick={() => move(device.id, 1)}
            >
              ↓
            </button>
            <button
              type="button"
              className="num w-8 text-right text-soft hover:underline"
              aria-label={`Choose the ${device.clips} clips of ${device.name}`}
              onClick={() =>
                onShow(day.clips.filter((clip) => clip.device === device.id).map((clip) => clip.id))
              }
            >
              {device.clips}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
