import { useState } from 'react';

type Props = {
  value: string;
  label: string;
  onSave: (value: string) => void;
  className?: string;
  id?: string;
  max?: number;
  /** What stands there while it is empty; given, it may be emptied. */
  placeholder?: string;
};

/** Text that is edited where it stands: Enter keeps, Escape leaves as it was. */
export function Editable({ value, label, onSave, className = '', max = 60, placeholder, id }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  const save = () => {
    const text = draft?.trim();
    if (text !== undefined && text !== value && (text || placeholder !== undefined)) onSave(text);
    setDraft(null);
  };
  return (
    <input
      id={id}
      aria-label={label}
      value={draft ?? value}
      maxLength={max}
      placeholder={placeholder}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={save}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setDraft(null);
      }}
      className={`min-w-0 border-b border-transparent bg-transparent hover:border-line placeholder:text-soft focus:border-accent focus:outline-none ${className}`}
    />
  );
}
