import { useContext } from 'react';
import { centimetres, metres } from '../model/format';
import { Editable } from './Editable';
import { SayContext } from './message';

type Props = {
  label: string;
  /** Null where none is given here. */
  value: number | null;
  /** What counts then. */
  otherwise: string;
  onSave: (centimetres: number | null) => void;
  className?: string;
};

/** A distance that is edited where it stands; emptied, it is no longer given. */
export function Metres({ label, value, otherwise, onSave, className = '' }: Props) {
  const say = useContext(SayContext);
  const save = (text: string) => {
    const typed = centimetres(text);
    if (typed === undefined) say('A distance is typed in metres, such as 12 or 12.5');
    else onSave(typed);
  };
  return (
    <Editable
      label={label}
      value={value === null ? '' : metres(value)}
      placeholder={otherwise}
      max={10}
      onSave={save}
      className={`num text-right ${className}`}
    />
  );
}
