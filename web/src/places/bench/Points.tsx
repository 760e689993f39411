import type { CheckPoint } from '../../api/types';

/** The check points by their keys, from left to right on the keyboard as along the clip. */
export const POINTS = [
  ['start', 'Q', 'Near the start'],
  ['middle', 'W', 'In the middle'],
  ['end', 'E', 'Near the end'],
] as const satisfies readonly (readonly [CheckPoint['along'], string, string])[];

type Props = {
  points: CheckPoint[];
  /** They are still being looked for. */
  looking: boolean;
  /** Which of them is looped. */
  looped: CheckPoint['along'] | null;
  onShow: (number: number) => void;
};

/** Moments to look at and listen to: sharp in both, near the start, in the middle, near the end. */
export function Points({ points, looking, looped, onShow }: Props) {
  return (
    <section aria-label="Check points" className="w-[330px] shrink-0">
      <h2 className="font-semibold">Look and listen</h2>
      {points.length === 0 && (
        <p className="text-soft">
          {looking ? 'Looking for what is sharp in both …' : 'Nothing stands out in both.'}
        </p>
      )}
      {POINTS.map(([along, key, word], i) => {
        const point = points.find((one) => one.along === along);
        return (
          point && (
            <button
              key={along}
              type="button"
              onClick={() => onShow(i)}
              className={`flex h-[22px] w-full items-center gap-3 border-t border-line text-left ${along === looped ? 'font-semibold' : ''}`}
            >
              <b className="num w-3">{key}</b>
              <span className="flex-1">{word}</span>
              <span className="num text-soft">{point.clip_s.toFixed(2)} s</span>
            </button>
          )
        );
      })}
    </section>
  );
}
