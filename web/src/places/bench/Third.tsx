import { useQuery, type UseQueryResult } from '@tanstack/react-query';
import { needleQuery } from '../../api/queries';
import type { ClipView, FrameRate, Needle } from '../../api/types';
import { offset } from '../../model/format';
import { ownAt, type Heard } from '../../model/mirror';
import { stem } from '../../model/names';
import { frameOf } from '../../model/pair';
import { whoIsOff } from '../../model/third';

/** A clip and where it is heard. */
type Lies = { clip: ClipView; heard: Heard };

type Props = {
  third: Lies;
  clip: Lies;
  against: Lies;
  /** What is left between these two. */
  needle: Needle | null;
  /** The playhead on the axis; null while it moves. */
  at: number | null;
  reach: number;
  rate: FrameRate;
};

/** What is left between a third clip and the two at the playhead, and who of them is off. */
export function Third({ third, clip, against, needle, at, reach, rate }: Props) {
  const to = (other: Lies) =>
    at === null
      ? null
      : {
          clip: third.clip,
          own: ownAt(third.heard, at),
          against: other.clip,
          there: ownAt(other.heard, at),
          reach,
        };
  const { data: byReference = null } = useQuery(needleQuery(to(against))) as UseQueryResult<Needle | null>;
  const { data: byClip = null } = useQuery(needleQuery(to(clip))) as UseQueryResult<Needle | null>;
  const off = whoIsOff(
    { clipAndReference: needle, thirdAndReference: byReference, thirdAndClip: byClip },
    frameOf(rate),
  );
  const names = { reference: stem(against.clip), clip: stem(clip.clip), third: stem(third.clip) };
  const left = (found: Needle | null) =>
    !found ? 'silent here' : found.clear ? offset(-found.later_s, rate) : 'unclear';
  const verdict =
    off === 'nobody'
      ? 'All three agree here.'
      : off === 'unknown'
        ? 'Who is off cannot be told here: try another moment.'
        : `${names[off]} is off: the other two agree.`;
  return (
    <p
      data-testid="third"
      className="flex shrink-0 items-center gap-4 border-t border-line px-4 py-1 whitespace-nowrap"
    >
      <b className="font-semibold">{verdict}</b>
      <span className="num text-[12px] text-soft">
        {names.third} to {names.reference}: {left(byReference)} · to {names.clip}: {left(byClip)}
      </span>
    </p>
  );
}
