type Props<T extends string> = {
  /** What there is, each with what it says. */
  kinds: readonly (readonly [kind: T, word: string])[];
  shown: T;
  onShow: (kind: T) => void;
};

/** Which of a few kinds of things are shown: words in a row. */
export function Kinds<T extends string>({ kinds, shown, onShow }: Props<T>) {
  return kinds.map(([kind, word]) => (
    <button
      key={kind}
      type="button"
      aria-pressed={kind === shown}
      onClick={() => onShow(kind)}
      className={`whitespace-nowrap ${kind === shown ? 'border-b-2 border-accent font-semibold' : 'text-soft'}`}
    >
      {word}
    </button>
  ));
}
