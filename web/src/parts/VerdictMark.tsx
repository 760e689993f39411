import type { Verdict } from '../api/types';

/** The word for a verdict. */
export const VERDICT: Record<Verdict, string> = {
  solid: 'Solid',
  check: 'Check',
  unplaced: 'Unplaced',
  by_hand: 'By hand',
};
const COLOUR: Record<Verdict, string> = {
  solid: 'var(--ink)',
  check: 'var(--check)',
  unplaced: 'var(--fault)',
  by_hand: 'var(--ink)',
};

/** Full disc, half disc, ring or square; with its word, shown or for screen readers. */
export function VerdictMark({ verdict, word }: { verdict: Verdict; word?: boolean }) {
  const colour = COLOUR[verdict];
  return (
    <span
      className="inline-flex items-center gap-1.5"
      style={{ color: verdict === 'solid' ? undefined : colour }}
    >
      <svg width="11" height="11" viewBox="0 0 12 12" aria-hidden className="shrink-0">
        {verdict === 'solid' && <circle cx="6" cy="6" r="5" fill={colour} />}
        {verdict === 'check' && (
          <>
            <circle cx="6" cy="6" r="5" fill="none" stroke={colour} strokeWidth="1.5" />
            <path d="M6 1a5 5 0 0 0 0 10z" fill={colour} />
          </>
        )}
        {verdict === 'unplaced' && (
          <circle cx="6" cy="6" r="4.5" fill="none" stroke={colour} strokeWidth="1.8" />
        )}
        {verdict === 'by_hand' && <rect x="1.5" y="1.5" width="9" height="9" fill={colour} />}
      </svg>
      <span className={word ? 'font-semibold' : 'sr-only'}>{VERDICT[verdict]}</span>
    </span>
  );
}
