import type { Day } from '../../api/day';
import type { SoundChange, SoundForm as Form, SoundView } from '../../api/types';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { Correct } from '../../parts/Correct';
import { Into } from '../../parts/Into';
import { Stamp } from '../../parts/Stamp';

const CONTAINERS = ['wave', 'mov', 'mxf', 'linked'] as const;

type Props = {
  day: Day;
  view: SoundView;
  onChange: (change: SoundChange) => void;
  /** Names, order, and which go out. */
  onTracks: () => void;
};

/** How sound is corrected, device by device, and how files are written: the production's habit. */
export function SoundForm({ day, view, onChange, onTracks }: Props) {
  const off = view.tracks.filter((track) => track.off).length;
  const { form, devices } = view.habit;
  const set = (some: Partial<Form>) => onChange({ do: 'form', form: { ...form, ...some } });
  const withPicture = form.container !== 'wave';
  const heard = new Set(
    [...view.clips, ...view.groups].flatMap(({ report }) => report.sources.map((own) => own.device)),
  );
  const recorders = day.devices.filter((device) => heard.has(device.name));
  return (
    <section
      aria-label="How it is written"
      className="w-[264px] shrink-0 overflow-y-auto border-r border-line px-4 py-3"
    >
      <h2 className="pb-1 text-[14px] font-semibold">Clocks</h2>
      <p className="pb-2 text-[12px] text-soft">
        The picture leads: sound follows its clock, from the first frame to the last.
      </p>
      <ul>
        {recorders.map((device) => {
          const own = devices.find(([id]) => id === device.id)?.[1];
          const correct = (handling: typeof own | null) =>
            onChange({ do: 'correct', devices: [device.id], clips: [], handling: handling ?? null });
          return (
            <li key={device.id} className="border-t border-line py-2">
              <p className="flex items-center gap-2 pb-1">
                <Stamp devices={day.devices} id={device.id} />
                <span className="truncate font-semibold">{device.name}</span>
              </p>
              <div className="flex flex-col items-end gap-1">
                <Correct label="Clock" value={own} onChange={correct} />
                <Choice
                  label="Lost samples"
                  value={own?.fill ?? 'silence'}
                  onChange={(fill) => {
                    const correction = own?.correction ?? null;
                    const close = fill === 'close';
                    correct(close || correction ? { correction, fill: close ? 'close' : 'silence' } : null);
                  }}
                >
                  <option value="silence">silence</option>
                  <option value="close">closed</option>
                </Choice>
              </div>
            </li>
          );
        })}
      </ul>
      <div className="flex flex-col items-end border-t border-line py-2">
        <Choice
          label="Re-cut before it is off by"
          value={form.recut_ms}
          onChange={(ms) => set({ recut_ms: Number(ms) })}
        >
          {[...new Set([5, 10, 20, 40, form.recut_ms])]
            .sort((a, b) => a - b)
            .map((ms) => (
              <option key={ms} value={ms}>
                {ms} ms
              </option>
            ))}
        </Choice>
      </div>
      <h2 className="border-t border-line pt-3 pb-1 text-[14px] font-semibold">Files</h2>
      <div className="flex flex-col items-end gap-1">
        <Choice
          label="Pictures"
          value={form.container}
          onChange={(container) => set({ container: CONTAINERS.find((own) => own === container) ?? 'wave' })}
        >
          <option value="wave">sound alone</option>
          <option value="mov">a MOV with it</option>
          <option value="mxf">an MXF with it</option>
          <option value="linked">only linked to it</option>
        </Choice>
        {withPicture && (
          <Choice
            label="Its own sound"
            value={form.own}
            onChange={(own) => set({ own: own === 'replaced' ? 'replaced' : 'muted' })}
          >
            <option value="muted">kept, muted</option>
            <option value="replaced">left out</option>
          </Choice>
        )}
        <Choice
          label="Tracks"
          value={form.layout}
          onChange={(layout) => set({ layout: layout === 'split' ? 'split' : 'poly' })}
        >
          <option value="poly">in one file</option>
          <option value="split">a file each</option>
        </Choice>
        <Choice
          label="Tracks of a group"
          value={form.of_groups}
          onChange={(own) => set({ of_groups: own === 'grid' || own === 'both' ? own : 'recorded' })}
        >
          <option value="recorded">as recorded</option>
          <option value="grid">its grid’s outputs</option>
          <option value="both">outputs, then tracks</option>
        </Choice>
        <Choice
          label="Samples"
          value={form.depth}
          onChange={(depth) => set({ depth: depth === 'float32' ? 'float32' : 'pcm24' })}
        >
          <option value="pcm24">24 bit</option>
          <option value="float32">32 bit float</option>
        </Choice>
        <Choice
          label="Rate"
          value={form.rate ?? ''}
          onChange={(rate) => set({ rate: rate === '' ? null : Number(rate) })}
        >
          <option value="">as recorded</option>
          <option value="48000">48 kHz</option>
          <option value="96000">96 kHz</option>
        </Choice>
        <Choice label="Handles" value={form.handles_ms} onChange={(ms) => set({ handles_ms: Number(ms) })}>
          {[...new Set([0, 1000, 2000, 5000, form.handles_ms])].map((ms) => (
            <option key={ms} value={ms}>
              {ms === 0 ? 'none' : `${ms / 1000} s`}
            </option>
          ))}
        </Choice>
      </div>
      {view.folders.length > 0 && (
        <Into
          folder={view.habit.folder}
          folders={view.folders}
          onFolder={(folder) => onChange({ do: 'folder', folder })}
        />
      )}
      <div className="flex items-center justify-end gap-2 pt-2">
        {off > 0 && <span className="num text-[12px] text-soft">{off} left out</span>}
        <Button small onClick={onTracks}>
          Tracks…
        </Button>
      </div>
      {(
        [
          ['scratch', 'cameras’ own sound too'],
          ['with_timecode', 'timecode channels too'],
        ] as const
      ).map(([what, word]) => (
        <label key={what} className="flex items-center gap-2 pt-2">
          <input
            type="checkbox"
            checked={form[what]}
            onChange={(event) => set({ [what]: event.target.checked })}
          />
          {word}
        </label>
      ))}
      <p className="mt-3 border-t border-line pt-2 text-[12px] break-words text-soft">
        {form.container === 'linked'
          ? 'A document (OpenTimelineIO) beside each picture’s name: the recordings linked to it as they are, cut or retimed as chosen. Groups as broadcast WAV. All'
          : withPicture
            ? 'The picture as it is, with its timecode; recorders’ tracks in 24 bit, named. Groups as broadcast WAV. All'
            : 'Broadcast WAV, at the picture’s own timecode,'}{' '}
        into <span className="num">{view.folder}</span>. What is chosen here stays for the production’s next
        days.
      </p>
    </section>
  );
}
