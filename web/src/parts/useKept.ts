import { useState } from 'react';

/** A choice between yes and no that is kept from one visit to the next; yes until somebody chose. */
export function useKept(key: string): [boolean, () => void] {
  const [on, setOn] = useState(() => localStorage.getItem(key) !== 'no');
  const turn = () => {
    localStorage.setItem(key, on ? 'no' : 'yes');
    setOn(!on);
  };
  return [on, turn];
}
