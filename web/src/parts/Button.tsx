import type { ComponentProps } from 'react';

type Props = ComponentProps<'button'> & { main?: boolean; small?: boolean };

/** A button with a word on it. */
export function Button({ main, small, className = '', ...rest }: Props) {
  const look = main
    ? 'bg-accent text-on-accent border-accent font-semibold disabled:border-line disabled:bg-band'
    : 'border-ink/70 hover:border-ink disabled:border-line';
  const size = small ? 'px-2 py-0.5' : 'px-3 py-1';
  return (
    <button
      type="button"
      className={`rounded-[3px] border whitespace-nowrap disabled:text-soft ${look} ${size} ${className}`}
      {...rest}
    />
  );
}
