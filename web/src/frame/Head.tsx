import { useContext, type ReactNode } from 'react';
import type { Day } from '../api/day';
import { KeysDialog } from '../keys/KeysDialog';
import type { Key } from '../keys/table';
import { KeysShown } from '../keys/shown';
import { useKeys } from '../keys/useKeys';

type Props = { day: Day; title: string; keys: readonly Key[]; children?: ReactNode };

/** The production and day at the top of every place, and what can be done here. */
export function Head({ day, title, keys, children }: Props) {
  const { shown, show } = useContext(KeysShown);
  useKeys([{ keys: '?', does: 'the keys of the place', on: { '?': () => show(true) } }]);
  return (
    <header className="flex h-11 shrink-0 items-center gap-3 border-b border-line px-4">
      <h1 className="min-w-0 truncate text-[14px] font-semibold">
        {day.production.name}
        <span className="sr-only">: {title}</span>
      </h1>
      <span className="whitespace-nowrap text-soft">{day.production.day}</span>
      {day.pass && <span className="whitespace-nowrap text-soft">Pass {day.pass.number}</span>}
      <div className="flex-1" />
      {children}
      <button
        type="button"
        aria-label="Keys of this place"
        className="num h-[22px] w-[22px] shrink-0 rounded-[3px] border border-line text-soft"
        onClick={() => show(true)}
      >
        ?
      </button>
      <KeysDialog keys={keys} open={shown} onClose={() => show(false)} />
    </header>
  );
}
