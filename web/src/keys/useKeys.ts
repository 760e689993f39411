import { useEffect, useRef } from 'react';
import { runs, type Key } from './table';

/** True where a key press belongs to what has the focus: text, lists, dialogs. */
function taken({ target }: KeyboardEvent): boolean {
  return (
    target instanceof Element &&
    !!target.closest('input:not([type="checkbox"]), textarea, select, [role="listbox"], [role="dialog"]')
  );
}

/** Enter and space press the button, link or box that has the focus. */
function presses({ key, target }: KeyboardEvent): boolean {
  return (
    (key === 'Enter' || key === ' ') &&
    target instanceof Element &&
    !!target.closest('button, a, input[type="checkbox"]')
  );
}

/** Runs what a table says when its keys are pressed anywhere on the page. */
export function useKeys(table: readonly Key[]) {
  const latest = useRef(table);
  useEffect(() => {
    latest.current = table;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.defaultPrevented || taken(event) || presses(event)) return;
      const run = runs(latest.current, event);
      if (!run) return;
      event.preventDefault();
      run();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
}
