import { useContext, useState } from 'react';
import type { FrameRate } from '../../api/types';
import { offset } from '../../model/format';
import { typedOffset } from '../../model/mirror';
import { frameOf } from '../../model/pair';
import { SayContext } from '../../parts/message';

type Props = { shift: number; rate: FrameRate; onShift: (to: number) => void };

/** Ten days: farther from its place no clip can be laid. */
const FARTHEST_S = 864_000;

/** How much later the clip lies than its place; to be typed. */
export function Offset({ shift, rate, onShift }: Props) {
  const say = useContext(SayContext);
  const [typed, setTyped] = useState<string | null>(null);
  const take = (field: HTMLInputElement) => {
    const wished = typedOffset(typed ?? '', 1 / frameOf(rate));
    if (wished === null) say(`“${typed ?? ''}” is no offset: write 12 f, -480 ms, 1.5 s or 0:01:12.`);
    else if (Math.abs(wished) > FARTHEST_S) say('An offset of more than ten days is none.');
    else {
      onShift(wished);
      field.blur();
    }
  };
  return (
    <input
      aria-label="Moved by"
      value={typed ?? offset(shift, rate)}
      onFocus={(event) => {
        setTyped('');
        event.target.select();
      }}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={() => setTyped(null)}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') event.currentTarget.blur();
        if (event.key === 'Enter') take(event.currentTarget);
      }}
      placeholder="12 f, -480 ms"
      className="num w-[156px] rounded-[3px] border border-line bg-sheet px-1.5 py-0.5 text-right"
    />
  );
}
