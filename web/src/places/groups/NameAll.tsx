import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Day } from '../../api/day';
import { useCommands, useRefresh } from '../../api/commands';
import { namesQuery } from '../../api/queries';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';

type Props = {
  day: Day;
  /** Those that are ticked; all where there are none. */
  groups: number[];
  onClose: () => void;
};

const WORDS = ['{production}', '{day}', '{scene}', '{take}', '{name}', '{number}'];

/** Names groups by a pattern, seen beforehand. */
export function NameAll({ day, groups, onClose }: Props) {
  const [pattern, setPattern] = useState('{scene} take {take}');
  const [first, setFirst] = useState(1);
  const run = useCommands();
  const refresh = useRefresh();
  const version = day.groups_turns.version;
  const wanted = { pattern, groups, first };
  const named = useQuery({ ...namesQuery(wanted, version), placeholderData: keepPreviousData });
  const nameOf = (id: number) => day.groups.find((own) => own.id === id)?.group.name;
  const take = async () => {
    const done = await run.nameGroups({ ...wanted, version });
    await refresh.day();
    if (done) onClose();
  };
  return (
    <Ask title={<>Name {groups.length > 0 ? `${groups.length} groups` : 'all groups'}</>} onClose={onClose}>
      <form
        className="contents"
        onSubmit={(event) => {
          event.preventDefault();
          void take();
        }}
      >
        <div className="flex items-center gap-3 py-2">
          <label className="flex flex-1 items-center gap-2">
            <span className="text-soft">Pattern</span>
            <input
              data-autofocus
              value={pattern}
              onChange={(event) => setPattern(event.target.value)}
              onFocus={(event) => event.target.select()}
              className="min-w-0 flex-1 rounded-[3px] border border-line bg-sheet px-2 py-1"
            />
          </label>
          <label className="flex items-center gap-2">
            <span className="text-soft">first number</span>
            <input
              type="number"
              min={0}
              value={first}
              onChange={(event) => setFirst(Math.max(0, Math.trunc(Number(event.target.value))))}
              className="num w-16 rounded-[3px] border border-line bg-sheet px-2 py-1"
            />
          </label>
        </div>
        <p className="flex flex-wrap gap-1.5 pb-2">
          {WORDS.map((word) => (
            <Button key={word} small onClick={() => setPattern(`${pattern} ${word}`.trim())}>
              {word}
            </Button>
          ))}
        </p>
        {named.isError && (
          <p role="alert" className="pb-2 text-fault">
            {named.error.message}
          </p>
        )}
        <ul aria-label="Names" className="min-h-0 overflow-y-auto border-y border-line">
          {named.data?.map((own) => (
            <li key={own.group} className="flex h-7 items-center gap-3 border-b border-line last:border-0">
              <span className="min-w-0 flex-1 truncate text-soft">{nameOf(own.group)}</span>
              <span className="min-w-0 flex-1 truncate font-semibold">{own.name}</span>
            </li>
          ))}
        </ul>
        <div className="flex justify-end gap-2 pt-3">
          <Button onClick={onClose}>Leave it</Button>
          <Button main type="submit" disabled={!named.data || named.isError}>
            Name them so
          </Button>
        </div>
      </form>
    </Ask>
  );
}
