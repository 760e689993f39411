import type { ReactNode } from 'react';

type Props = {
  label: string;
  value: string | number | undefined;
  onChange: (value: string) => void;
  /** The options. */
  children: ReactNode;
};

/** A choice among a few, with a word before it. */
export function Choice({ label, value, onChange, children }: Props) {
  return (
    <label className="flex items-center gap-2">
      <span className="whitespace-nowrap text-soft">{label}</span>
      <select
        value={value}
        onChange={(event) => {
          onChange(event.target.value);
          // The keys of the place go to the place, not to the list.
          event.target.blur();
        }}
        className="max-w-[124px] rounded-[3px] border border-line bg-sheet px-2 py-1"
      >
        {children}
      </select>
    </label>
  );
}
