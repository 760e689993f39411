import type { ShootDay } from '../../model/days';

type Props = { days: ShootDay[]; shown: string | null; onShow: (name: string | null) => void };

/** The shoot days of a production, to choose whose sheet is shown. */
export function Days({ days, shown, onShow }: Props) {
  const sum = (of: 'clips' | 'due') => days.reduce((all, day) => all + day[of], 0);
  const choices = [
    ...days.map((day) => ({ ...day, of: day.name as string | null })),
    { name: 'All days', clips: sum('clips'), due: sum('due'), of: null },
  ];
  return (
    <nav
      aria-label="Shoot days"
      className="flex shrink-0 gap-5 overflow-x-auto border-b border-line px-4 py-1"
    >
      {choices.map(({ name, clips, due, of }) => (
        <button
          key={of ?? ''}
          type="button"
          aria-pressed={shown === of}
          onClick={() => onShow(of)}
          className={`flex items-baseline gap-2 py-0.5 whitespace-nowrap ${shown === of ? 'font-semibold underline decoration-2 underline-offset-4' : 'text-soft'}`}
        >
          {name}
          <span className="num text-[12px] font-normal text-soft">{clips}</span>
          {due > 0 && <span className="num text-[12px] font-normal text-check">{due} to check</span>}
        </button>
      ))}
    </nav>
  );
}
