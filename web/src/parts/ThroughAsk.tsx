import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { Day } from '../api/day';
import { useCommands, useRefresh } from '../api/commands';
import { balanceQuery, keys, lutsQuery } from '../api/queries';
import type { Angle, Arrange, Group, LutView, SeenThrough } from '../api/types';
import { angleName, rankOf, seenOf } from '../model/angles';
import { throughOf } from '../model/lut';
import { Ask } from './Ask';
import { Button } from './Button';
import { FilePick } from './FilePick';
import { Stamp } from './Stamp';

type Props = {
  day: Day;
  id: number;
  group: Group;
  onArrange: (how: Arrange) => Promise<unknown>;
  onClose: () => void;
};

const OWN = 'own-device';
const NOTHING = 'nothing';

/** What the angles of a group are seen through, and how they differ so: by device for all groups, by angle for this one. */
export function ThroughAsk({ day, id, group, onArrange, onClose }: Props) {
  const run = useCommands();
  const refresh = useRefresh();
  const client = useQueryClient();
  const luts = useQuery(lutsQuery).data ?? [];
  const angles = seenOf(group);
  const seen = angles.map((angle) => `${angle.id} ${throughOf(day.devices, angle) ?? ''}`).join(',');
  const balance = useQuery(balanceQuery(id, seen));
  const bring = async (files: File[]) => {
    for (const one of files) {
      const own = await run.bringLut(one);
      if (own) await client.invalidateQueries({ queryKey: keys.luts });
    }
  };
  const ofDevice = async (device: number, key: string) => {
    await run.edit({ do: 'see_through', device, lut: key === NOTHING ? null : key });
    await refresh.day();
  };
  const ofAngle = (angle: Angle, key: string) => {
    const through: SeenThrough | null = key === OWN ? null : key === NOTHING ? 'nothing' : { lut: key };
    return onArrange({ do: 'see_through', angle: angle.id, through });
  };
  const differs = (angle: Angle, number: number) => {
    if (number === 0) return 'the others are compared with it';
    if (balance.isPending) return 'looking…';
    const own = balance.data?.find((one) => one.angle === angle.id);
    if (own?.said) return own.said;
    return balance.isError ? '' : own?.moments === 0 ? 'never runs with the first' : '';
  };
  return (
    <Ask title="What pictures are seen through" onClose={onClose} width={940}>
      <p className="pt-1 text-soft">
        Viewing LUTs change what is seen here, never what is kept or written in documents. Differences are
        measured on what is seen, in stops, at moments at which both cameras ran; they are those of the
        cameras as far as both saw the same.
      </p>
      <div className="min-h-0 overflow-y-auto pt-3">
        <table className="w-full">
          <thead>
            <tr className="text-left text-soft">
              <th className="pb-1 font-normal">Angle</th>
              <th className="pb-1 font-normal">Device, in all groups</th>
              <th className="pb-1 font-normal">This angle, here</th>
              <th className="pb-1 font-normal">Beside {angleName(day, group, angles[0])}</th>
            </tr>
          </thead>
          <tbody>
            {angles.map((angle, number) => {
              const name = angleName(day, group, angle);
              const device = day.devices.find((own) => own.id === angle.device);
              const { through } = angle;
              return (
                <tr key={angle.id} className="h-10 border-t border-line">
                  <td className="max-w-40 pr-3">
                    <span className="flex items-center gap-2">
                      <Stamp devices={day.devices} id={angle.device} rank={rankOf(group, angle)} />
                      <span className="truncate" title={name}>
                        {name}
                      </span>
                    </span>
                  </td>
                  <td className="pr-3">
                    {device && (
                      <Select
                        label={`${device.name} is seen through`}
                        luts={luts}
                        said={saidBy(day, device.id)}
                        value={device.lut ?? NOTHING}
                        onChange={(key) => void ofDevice(device.id, key)}
                      />
                    )}
                  </td>
                  <td className="pr-3">
                    <Select
                      label={`${name} is seen through, here`}
                      luts={luts}
                      own
                      value={!through ? OWN : through === 'nothing' ? NOTHING : through.lut}
                      onChange={(key) => void ofAngle(angle, key)}
                    />
                  </td>
                  <td className="w-56" data-differs={angle.id}>
                    {differs(angle, number)}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {balance.isError && (
          <p role="status" className="pt-2 text-check">
            The angles cannot be compared: {balance.error.message}
          </p>
        )}
      </div>
      <div className="flex items-center gap-2 pt-4">
        <FilePick
          word="Bring a LUT (.cube)…"
          label="LUTs to bring"
          accept=".cube"
          multiple
          onFiles={(files) => void bring(files)}
        />
        <span className="flex-1 text-soft">
          What a device is seen through is taken back at Intake, an angle’s here, each with ctrl Z.
        </span>
        <Button onClick={onClose} data-autofocus>
          Done
        </Button>
      </div>
    </Ask>
  );
}

/** How the colours of a device's files are coded, where they say that it is not as a screen shows them. */
function saidBy(day: Day, device: number): string | null {
  const clips = day.clips.filter((clip) => clip.device === device);
  const coded = clips.find(({ facts }) => facts.picture?.colour.transfer)?.facts.picture?.colour;
  if (coded?.transfer === 'arib-std-b67') return 'hlg';
  if (coded?.transfer === 'smpte2084') return 'pq';
  return coded?.primaries === 'bt2020' ? 'bt2020' : null;
}

type SelectProps = {
  label: string;
  luts: LutView[];
  /** There is one of a device that is taken where nothing else is chosen. */
  own?: boolean;
  /** The key of what the files say that they need. */
  said?: string | null;
  value: string;
  onChange: (key: string) => void;
};

function Select({ label, luts, own = false, said = null, value, onChange }: SelectProps) {
  const known = value === OWN || value === NOTHING || luts.some(({ key }) => key === value);
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      className="w-56 rounded-[3px] border border-line bg-sheet px-2 py-1"
    >
      {own && <option value={OWN}>as its device</option>}
      <option value={NOTHING}>as recorded</option>
      {luts.map(({ key, name }) => (
        <option key={key} value={key}>
          {name}
          {key === said ? ' (its files say so)' : ''}
        </option>
      ))}
      {!known && <option value={value}>one that is not here</option>}
    </select>
  );
}
