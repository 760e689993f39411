import type { Correction, Handling } from '../api/types';
import { CORRECTIONS } from '../model/corrected';
import { Choice } from './Choice';

type Props = {
  label: string;
  /** What is chosen; none where what holds above it does. */
  value: Handling | undefined;
  onChange: (value: Handling | null) => void;
};

/** What is done about a sound's clock. */
export function Correct({ label, value, onChange }: Props) {
  const choose = (chosen: string) => {
    const correction = CORRECTIONS.find(([own]) => own === chosen)?.[0] as Correction | undefined;
    const fill = value?.fill ?? 'silence';
    onChange(correction || fill !== 'silence' ? { correction: correction ?? null, fill } : null);
  };
  return (
    <Choice label={label} value={value?.correction ?? ''} onChange={choose}>
      {CORRECTIONS.map(([correction, word]) => (
        <option key={word} value={correction ?? ''}>
          {word}
        </option>
      ))}
    </Choice>
  );
}
