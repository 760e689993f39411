import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { Day } from '../../api/day';
import { useCommands } from '../../api/commands';
import { groupQuery, keptLinesQuery } from '../../api/queries';
import type { GroupView, KeptLineView, Shot } from '../../api/types';
import { angleName, angleOf } from '../../model/angles';
import { length, timecode } from '../../model/format';
import { BLACK } from '../../model/onAir';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { Editable } from '../../parts/Editable';
import { FilePick } from '../../parts/FilePick';
import { FirstCut } from './FirstCut';
import { MusicCut } from './MusicCut';

type Props = {
  day: Day;
  view: GroupView;
  onSeek: (frame: number) => void;
  onClose: () => void;
};

/** The lines that a group keeps beside its own: named, compared with what is there now, gone back to; and first cuts. */
export function LinesAsk({ day, view, onSeek, onClose }: Props) {
  const { group } = view;
  const run = useCommands();
  const client = useQueryClient();
  const query = keptLinesQuery(view.id, view.version);
  const lines = useQuery(query);
  const [name, setName] = useState('');
  const [open, setOpen] = useState<number | null>(null);
  const [making, setMaking] = useState<'talk' | 'music' | null>(null);
  const put = (kept: KeptLineView[] | undefined) => kept && client.setQueryData(query.queryKey, kept);
  const made = (kept: KeptLineView[]) => {
    put(kept);
    setMaking(null);
  };
  const keep = async () => {
    if (!name.trim()) return;
    put(await run.keepLine(view.id, { name }));
    setName('');
  };
  const back = async (line: KeptLineView) => {
    const now = await run.goBackTo(view.id, line.id, { version: view.version });
    if (now) client.setQueryData(groupQuery(view.id).queryKey, now);
  };
  const [told, setTold] = useState<string[]>([]);
  const read = async (file: File) => {
    const own = await run.readLine(view.id, file);
    if (!own) return;
    put(own.kept);
    setOpen(own.id);
    const shots = own.shots === 1 ? 'one shot is' : `${own.shots} shots are`;
    const markers =
      own.markers === 1 ? ', with a marker' : own.markers ? `, with ${own.markers} markers` : '';
    setTold([`${file.name}: ${shots} in a line of its own${markers}`, ...own.remarks]);
  };
  const all = lines.data ?? [];
  return (
    <Ask title="Lines that are kept" onClose={onClose} width={820}>
      <p className="pt-1 text-soft">
        The group’s line stays as it is until you go to another; going there is a step that is taken back like
        any other. A line that was changed elsewhere is read from OpenTimelineIO or an edit decision list.
      </p>
      <form
        className="flex items-center gap-2 pt-3"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <input
          aria-label="Name of the line"
          data-autofocus
          placeholder="a name for the line as it is now"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
          className="min-w-0 flex-1 rounded-[3px] border border-line bg-sheet px-2 py-1"
        />
        <Button type="submit" disabled={!name.trim()}>
          Keep it
        </Button>
        <Button aria-pressed={making === 'talk'} onClick={() => setMaking(making === 'talk' ? null : 'talk')}>
          First cut from who speaks…
        </Button>
        <Button
          aria-pressed={making === 'music'}
          onClick={() => setMaking(making === 'music' ? null : 'music')}
        >
          On the music…
        </Button>
        <FilePick
          word="Read one…"
          label="Document to read a line from"
          accept=".otio,.otioz,.edl,.json,.txt"
          onFiles={([file]) => file && void read(file)}
        />
      </form>
      {told.length > 0 && (
        <ul role="status" aria-label="What was read" className="pt-2 text-[12px] text-soft">
          {told.map((own) => (
            <li key={own}>{own}.</li>
          ))}
        </ul>
      )}
      {making === 'talk' && <FirstCut day={day} view={view} onMade={made} />}
      {making === 'music' && <MusicCut view={view} onMade={made} />}
      {lines.isError && (
        <p role="status" className="pt-3 text-check">
          {lines.error.message}
        </p>
      )}
      <ul aria-label="Kept lines" className="mt-3 min-h-0 overflow-y-auto border-t border-line">
        {all.length === 0 && <li className="py-2 text-soft">None is kept yet.</li>}
        {all.map((line) => (
          <li key={line.id} className="border-b border-line py-1.5">
            <div className="flex items-center gap-3">
              <Editable
                label="Name of a kept line"
                value={line.name}
                max={80}
                onSave={(text) => void run.nameLine(view.id, line.id, { name: text }).then(put)}
                className="min-w-0 flex-1 font-semibold"
              />
              <span className="num text-soft">{new Date(line.at * 1000).toLocaleString()}</span>
              <span className="num w-28 text-right">
                {line.stretches === 1 ? 'no cuts' : `${line.stretches} stretches`}
              </span>
              <Button
                small
                aria-expanded={open === line.id}
                disabled={line.differs.length === 0 && line.reasons.length === 0}
                onClick={() => setOpen(open === line.id ? null : line.id)}
              >
                {differsSaid(line, group.start.rate)}
              </Button>
              <Button
                small
                disabled={line.differs.length === 0 && !line.other_beside}
                onClick={() => void back(line)}
              >
                Go to it
              </Button>
            </div>
            {open === line.id && <Compared day={day} view={view} line={line} onSeek={onSeek} />}
          </li>
        ))}
      </ul>
      <div className="flex justify-end pt-3">
        <Button onClick={onClose}>Done</Button>
      </div>
    </Ask>
  );
}

function differsSaid(
  { differs, other_beside }: KeptLineView,
  { num, den }: { num: number; den: number },
): string {
  if (differs.length === 0) return other_beside ? 'other sound, layers or markers' : 'as it is now';
  const frames = differs.reduce((all, { from, to }) => all + to - from, 0);
  return `other for ${length((frames * den) / num)}`;
}

/** Why a shot of a first cut is there, in words. */
export function whySaid(shot: Shot): string {
  switch (shot.why) {
    case 'speaks':
      return 'speaks';
    case 'several':
      return 'several speak';
    case 'nobody':
      return 'nobody speaks';
    case 'on_beat':
      return 'on the beat';
    case 'ended':
      return 'the angle before ended';
  }
}

/** The most differences that are shown. */
const MOST = 200;

/** Where a kept line shows something else than the line does now, and why, where it was proposed. */
function Compared({ day, view, line, onSeek }: Omit<Props, 'onClose'> & { line: KeptLineView }) {
  const { group } = view;
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const name = (id: number) => (id === BLACK ? 'black' : angleName(day, group, angleOf(group, id)));
  const why = (at: number) => line.reasons.findLast((shot) => shot.at <= at);
  return (
    <ol className="max-h-52 overflow-y-auto py-1">
      {line.differs.slice(0, MOST).map(({ from, to, own, other }) => {
        const reason = why(from);
        return (
          <li key={from} className="flex items-center gap-3 py-0.5">
            <button type="button" className="num hover:underline" onClick={() => onSeek(from)}>
              {label(from)}
            </button>
            <span className="num w-16 text-right text-soft">
              {length(((to - from) * group.start.rate.den) / group.start.rate.num)}
            </span>
            <span className="min-w-0 truncate">
              {name(own)} for {name(other)}
            </span>
            {reason && <span className="text-soft">{whySaid(reason)}</span>}
          </li>
        );
      })}
    </ol>
  );
}
