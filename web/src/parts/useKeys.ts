import { useEffect, useRef } from 'react';

/** True where a key press belongs to what has the focus: text, lists, dialogs. */
function taken(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null;
  return !!target?.closest('input, textarea, select, [role="listbox"], [role="dialog"]');
}

/** Calls `handle` on key presses of the whole page; it returns true where it used the key. */
export function useKeys(handle: (event: KeyboardEvent) => boolean) {
  const latest = useRef(handle);
  useEffect(() => {
    latest.current = handle;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!taken(event) && latest.current(event)) event.preventDefault();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
}
