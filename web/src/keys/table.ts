/**
 * Keys of a place: one table says what each does, in the `?` dialog and when it is pressed.
 *
 * A key is the first letter of what it does, or lies where the hand is.
 */

/** A line of the table: what is written, and what is run for each press. */
export type Key = {
  /** As it is written. */
  keys: string;
  does: string;
  /** What is run, by press: `S`, `shift ArrowLeft`, `ctrl Z`, `3`. */
  on: Readonly<Record<string, () => void>>;
};

/** What of a key press counts. */
export type Press = Pick<KeyboardEvent, 'key' | 'code' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>;

/** A press in the words of the table; cmd counts as ctrl. */
export function pressed(event: Press): string {
  const name = nameOf(event);
  // What a sign needs of shift is in the sign.
  const sign = name.length === 1 && !/[A-Z0-9]/.test(name);
  const held = [
    (event.ctrlKey || event.metaKey) && 'ctrl',
    event.altKey && 'alt',
    event.shiftKey && !sign && 'shift',
  ];
  return [...held.filter(Boolean), name].join(' ');
}

/**
 * The key: letters whatever caps lock says; where the layout has no Latin ones, or alt makes others of them, and for
 * digits by where they lie.
 */
function nameOf({ key, code, altKey }: Press): string {
  const digit = /^(?:Digit|Numpad)([0-9])$/.exec(code)?.[1];
  if (digit && (code.startsWith('Digit') || key === digit)) return digit;
  if (/^[a-z]$/i.test(key)) return key.toUpperCase();
  const letter = /^Key([A-Z])$/.exec(code)?.[1];
  if (letter && key.length === 1 && (altKey || !/^[\x20-\x7e]$/.test(key))) return letter;
  return key === ' ' ? 'Space' : key;
}

/** What a table runs for a press; nothing where it has none. */
export function runs(table: readonly Key[], event: Press): (() => void) | undefined {
  const press = pressed(event);
  return table.find((key) => Object.hasOwn(key.on, press))?.on[press];
}

/** Hands that do nothing: a table made with them only shows its keys. */
export const idle = <T extends object>(): T => new Proxy({} as T, { get: () => () => undefined });
