import { Link } from 'wouter';
import type { GroupView } from '../../api/types';

/** Says that a newer pass made another group of these clips, and leads there. */
export function FollowedBy({ view }: { view: GroupView }) {
  const next = view.followed_by;
  if (!next) return null;
  return (
    <p role="status" className="border-b border-line bg-check/15 px-4 py-1.5">
      This group is of an earlier pass: what is done here stays here. The newest pass has these clips in{' '}
      <Link href={`/switch/${next.id}`} className="underline">
        {next.name}
      </Link>
      .
    </p>
  );
}
