type Props = {
  /** What it says. */
  word: string;
  on: boolean;
  onTurn: (on: boolean) => void;
  className?: string;
};

/** A box to be ticked, with its word. */
export function Check({ word, on, onTurn, className = '' }: Props) {
  return (
    <label className={`flex items-center whitespace-nowrap ${className}`}>
      <input type="checkbox" checked={on} onChange={(event) => onTurn(event.target.checked)} />
      {word}
    </label>
  );
}
