import type { Layer } from '../api/types';

type Props = { value: Layer['speed']; onSet: (speed: Layer['speed']) => void };

/** A speed that is typed, in per cent of the clip's own, to a hundredth. */
export function Percent({ value: { num, den }, onSet }: Props) {
  const shown = Number(((100 * num) / den).toFixed(2));
  const set = (text: string) => {
    const percent = Math.min(10_000, Math.max(1, Number(text) || 100));
    if (percent !== shown) onSet({ num: Math.round(percent * 100), den: 10_000 });
  };
  return (
    <label className="flex items-center gap-1.5">
      <span className="text-soft">Speed</span>
      <input
        key={shown}
        type="number"
        min={1}
        max={10_000}
        step="any"
        defaultValue={shown}
        onBlur={(event) => set(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        className="num w-16 rounded-[3px] border border-line bg-sheet px-1 py-0.5"
      />
      <span className="text-soft">%</span>
    </label>
  );
}
