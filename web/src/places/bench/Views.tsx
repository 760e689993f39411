import { Link } from 'wouter';

type Props = { clip: number; shown: 'slate' | 'against' };

const VIEWS = [
  ['slate', 'Slate', ''],
  ['against', 'Against', '/against'],
] as const;

/** What the Bench shows of a clip: its slate, or the clip against another. */
export function Views({ clip, shown }: Props) {
  return (
    <nav aria-label="View of the Bench" className="flex">
      {VIEWS.map(([view, name, path]) => (
        <Link
          key={view}
          href={`/bench/${clip}${path}`}
          aria-current={view === shown ? 'page' : undefined}
          className={`border px-3 py-1 first:rounded-l-[3px] last:rounded-r-[3px] ${view === shown ? 'border-ink bg-ink text-sheet' : 'border-ink/70'}`}
        >
          {name}
        </Link>
      ))}
    </nav>
  );
}
