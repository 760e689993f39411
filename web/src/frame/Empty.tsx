import type { ReactNode } from 'react';
import type { Day } from '../api/day';
import { Head } from './Head';
import type { Key } from '../keys/table';

type Props = { day: Day; title: string; keys: readonly Key[]; children: ReactNode };

/** A place with nothing in it says what to do next. */
export function Empty({ day, title, keys, children }: Props) {
  return (
    <>
      <Head day={day} title={title} keys={keys} />
      <p className="max-w-[520px] p-8 text-[14px] [&_a]:text-accent [&_a]:underline">{children}</p>
    </>
  );
}
