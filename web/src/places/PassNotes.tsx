import { post } from '../api/client';
import type { Changed, ClockNote, DayView, DeviceView } from '../api/types';
import { apart } from '../format';
import { Button } from '../parts/Button';
import { useAsk } from '../parts/message';
import { Stamp } from '../parts/Stamp';
import type { Changes } from './useChanges';

type Props = { day: DayView; since: Changes; onChoose: (clip: number) => void };

/** What a pass says of whole devices, each with its remedy, and what it changed. Shown while no clip is chosen. */
export function PassNotes({ day, since, onChoose }: Props) {
  if (!day.pass) return null;
  return (
    <>
      <DeviceNotes day={day} />
      {since.others.length > 0 && <ChangeList day={day} since={since} onChoose={onChoose} />}
    </>
  );
}

/** Frames that are taken off a device's timecode of a kind. */
function takenOff(device: DeviceView, kind: ClockNote['kind']): number {
  const { file_timecode, audio_timecode, slate } = device.taken_off;
  if (kind === 'file_timecode') return file_timecode;
  return kind === 'audio_timecode' ? audio_timecode : kind === 'slate' ? slate : 0;
}

function DeviceNotes({ day }: { day: DayView }) {
  const ask = useAsk();
  const notes = day.pass?.notes ?? [];
  if (notes.length === 0) return null;
  const edit = (change: object) => void ask(post('/intake/edits', change));
  return (
    <section aria-label="Devices" className="pt-3">
      <h2 className="font-semibold">Clocks, timecode and distances</h2>
      {notes.map((note) => {
        const device = day.devices.find((one) => one.id === note.device);
        const frames = note.frames_off;
        const metres = note.metres;
        const given = device ? takenOff(device, note.kind) : 0;
        return (
          <div key={`${note.device} ${note.kind} ${note.text}`} className="border-t border-line py-1.5">
            <p>
              <Stamp devices={day.devices} id={note.device} /> {note.text}
            </p>
            {frames !== null && device && (
              <Button
                small
                className="mt-1"
                disabled={given !== 0}
                onClick={() =>
                  edit({ do: 'take_off', device: note.device, kind: note.kind, frames: given + frames })
                }
              >
                {given !== 0
                  ? `${Math.abs(given)} f taken into account at the next pass`
                  : `${frames > 0 ? 'Take off' : 'Add'} ${Math.abs(frames)} f`}
              </Button>
            )}
            {metres !== null && device && (
              <Button
                small
                className="mt-1"
                disabled={device.distance_m > 0}
                onClick={() =>
                  edit({ do: 'distance', device: note.device, distance_cm: Math.round(metres * 100) })
                }
              >
                {device.distance_m > 0
                  ? `${device.distance_m.toFixed(1)} m given: sync again`
                  : `Give it ${metres.toFixed(1)} m`}
              </Button>
            )}
          </div>
        );
      })}
    </section>
  );
}

function ChangeList({ day, since, onChoose }: Props) {
  const { others, from, setFrom, changes: data } = since;
  return (
    <section aria-label="Changes" className="pt-4">
      <label className="flex items-center gap-2 font-semibold">
        Changed since pass
        <select
          value={from}
          onChange={(event) => setFrom(Number(event.target.value))}
          className="min-w-0 flex-1 rounded-[3px] border border-line bg-sheet px-1 py-0.5 font-normal"
        >
          {others.map((pass) => (
            <option key={pass.id} value={pass.id}>
              {pass.number} {pass.name}
            </option>
          ))}
        </select>
      </label>
      {data?.length === 0 && <p className="pt-1 text-soft">Nothing moved, no verdict changed.</p>}
      {data?.map((change) => {
        const clip = day.clips.find((one) => one.id === change.clip);
        return (
          <button
            key={change.clip}
            type="button"
            onClick={() => onChoose(change.clip)}
            className="mt-1 block w-full border-t border-line pt-1 text-left"
          >
            <span className="num">{clip?.file_name.replace(/\.[^.]+$/, '')}</span>
            {change.moved_s !== null && <span className="num"> moved {apart(change.moved_s)}</span>}
            {change.before !== change.after && (
              <span className="text-soft">
                {' '}
                {word(change.before)} → {word(change.after)}
              </span>
            )}
          </button>
        );
      })}
    </section>
  );
}

const word = (verdict: Changed['before']) => (verdict === null ? 'not in it' : verdict.replace('_', ' '));
