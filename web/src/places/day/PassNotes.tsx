import { useCommands, useTurned } from '../../api/commands';
import type { Day } from '../../api/day';
import type { Changed, ClockNote, DeviceView, IntakeChange, PassView } from '../../api/types';
import { apart } from '../../model/format';
import { stemOf } from '../../model/names';
import { Button } from '../../parts/Button';
import { Editable } from '../../parts/Editable';
import { Stamp } from '../../parts/Stamp';
import { Turn } from '../../parts/Turn';
import { Glance } from './Glance';
import type { Changes } from './useChanges';

type Props = {
  day: Day;
  since: Changes;
  onChoose: (clip: number) => void;
  onSeveral: (clips: readonly number[]) => void;
};

/** What a pass says of whole devices, each with its remedy, and what it changed. Shown while no clip is chosen. */
export function PassNotes({ day, since, onChoose, onSeveral }: Props) {
  if (!day.pass) return null;
  return (
    <>
      <PassName day={day} pass={day.pass} />
      <Glance day={day} onChoose={onChoose} onSeveral={onSeveral} />
      <DeviceNotes day={day} onChoose={onChoose} />
      {since.others.length > 0 && <ChangeList day={day} since={since} onChoose={onChoose} />}
    </>
  );
}

/** What the pass is called, to be changed where it stands. */
function PassName({ day, pass }: { day: Day; pass: PassView }) {
  const run = useCommands();
  const said = useTurned();
  return (
    <section aria-label="Pass" className="flex items-center gap-1.5 pt-3">
      <span className="num text-soft">{pass.number}</span>
      <Editable
        key={pass.id}
        label="Name of the pass"
        value={pass.name}
        onSave={(name) => void run.namePass(pass.id, { name })}
        className="flex-1 font-semibold"
      />
      <Turn
        turns={day.named}
        onTurn={(way) => void run.turnPass(pass.id, way).then((turned) => said(way, turned))}
      />
    </section>
  );
}

/** Frames that are taken off a device's timecode of a kind. */
function takenOff(device: DeviceView, kind: ClockNote['kind']): number {
  const { file_timecode, audio_timecode, slate } = device.taken_off;
  if (kind === 'file_timecode') return file_timecode;
  return kind === 'audio_timecode' ? audio_timecode : kind === 'slate' ? slate : 0;
}

function DeviceNotes({ day, onChoose }: Omit<Props, 'since' | 'onSeveral'>) {
  const notes = day.pass?.notes ?? [];
  if (notes.length === 0) return null;
  return (
    <section aria-label="Devices" className="pt-3">
      <h2 className="font-semibold">Clocks, timecode and distances</h2>
      {notes.map((note) => (
        <div
          key={`${note.device} ${note.clip} ${note.kind} ${note.text}`}
          className="border-t border-line py-1.5"
        >
          <p>
            <Stamp devices={day.devices} id={note.device} />{' '}
            {note.clip !== null && <ClipName day={day} clip={note.clip} onChoose={onChoose} />}
            {note.text}
          </p>
          <Frames day={day} note={note} />
          <Metres day={day} note={note} />
        </div>
      ))}
    </section>
  );
}

function ClipName({ day, clip: id, onChoose }: Omit<Props, 'since' | 'onSeveral'> & { clip: number }) {
  return (
    <button type="button" className="num mr-1 underline" onClick={() => onChoose(id)}>
      {stemOf(day, id)}
    </button>
  );
}

type NoteProps = { day: Day; note: ClockNote };

/** Takes the frames off that a note speaks of. */
function Frames({ day, note }: NoteProps) {
  const { edit } = useCommands();
  const device = day.devices.find((one) => one.id === note.device);
  if (!device || note.take_off === null) return null;
  const all = note.frames_in_all ?? note.take_off;
  const done = takenOff(device, note.kind) === all;
  const frames = Math.abs(note.take_off);
  return (
    <Button
      small
      className="mt-1"
      disabled={done}
      onClick={() => void edit({ do: 'take_off', device: device.id, kind: note.kind, frames: all })}
    >
      {done
        ? `${frames} f taken into account at the next pass`
        : `${note.take_off > 0 ? 'Take off' : 'Add'} ${frames} f`}
    </Button>
  );
}

/** Gives the device or clip the distance that a note speaks of. */
function Metres({ day, note }: NoteProps) {
  const { edit } = useCommands();
  const device = day.devices.find((one) => one.id === note.device);
  const clip = day.clips.find((one) => one.id === note.clip);
  if (!device || note.metres === null) return null;
  const distance_cm = Math.round(note.metres * 100);
  const given = note.clip === null ? device.distance_m : (clip?.distance_m ?? null);
  const done = given !== null && Math.round(given * 100) === distance_cm;
  const change: IntakeChange =
    note.clip === null
      ? { do: 'distance', device: device.id, distance_cm }
      : { do: 'clip_distance', clips: [note.clip], distance_cm };
  return (
    <Button small className="mt-1" disabled={done} onClick={() => void edit(change)}>
      {done ? `${note.metres.toFixed(1)} m given: sync again` : `Give it ${note.metres.toFixed(1)} m`}
    </Button>
  );
}

function ChangeList({ day, since, onChoose }: Omit<Props, 'onSeveral'>) {
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
        return (
          <button
            key={change.clip}
            type="button"
            onClick={() => onChoose(change.clip)}
            className="mt-1 block w-full border-t border-line pt-1 text-left"
          >
            <span className="num">{stemOf(day, change.clip)}</span>
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
