import { useState } from 'react';

type Props = {
  value: string;
  label: string;
  editing: boolean;
  onBegin: () => void;
  /** `next` is true where the person goes on to the next cell. */
  onEnd: (value: string | null, next: boolean) => void;
};

/** A cell that is edited where it stands: Enter keeps, Tab keeps and goes on, Escape leaves it. */
export function Cell({ value, label, editing, onBegin, onEnd }: Props) {
  if (!editing) {
    return (
      <span
        className="block h-full truncate"
        onDoubleClick={onBegin}
        title={value ? `${value} – double-click or E to edit` : undefined}
      >
        {value}
      </span>
    );
  }
  return <Field value={value} label={label} onEnd={onEnd} />;
}

function Field({ value, label, onEnd }: Pick<Props, 'value' | 'label' | 'onEnd'>) {
  const [draft, setDraft] = useState(value);
  const end = (next: boolean) => onEnd(draft.trim() === value ? null : draft.trim(), next);
  return (
    <input
      autoFocus
      aria-label={label}
      value={draft}
      maxLength={500}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={() => end(false)}
      onClick={(event) => event.stopPropagation()}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') end(false);
        else if (event.key === 'Tab') {
          event.preventDefault();
          end(true);
        } else if (event.key === 'Escape') onEnd(null, false);
      }}
      className="num h-[22px] w-full min-w-0 rounded-[2px] border border-accent bg-sheet px-1 text-[12px] focus:outline-none"
    />
  );
}
