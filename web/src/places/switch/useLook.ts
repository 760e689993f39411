import { useEffect, useState } from 'react';
import type { Look, Wall } from '../../play/wall';

/** The key that is held. */
const HELD = 'KeyY';

/** While a key is held, or until a button is pressed again: the line without what lies over it, or an angle in its place. Nothing is changed by it. */
export function useLook(wall: Wall) {
  const [look, setLook] = useState<Look | null>(null);
  useEffect(() => wall.setLook(look), [wall, look]);
  useEffect(() => {
    if (!look) return;
    const end = () => setLook(null);
    const up = (event: KeyboardEvent) => {
      if (event.code === HELD || event.key.toUpperCase() === 'Y') end();
    };
    window.addEventListener('keyup', up);
    window.addEventListener('blur', end);
    return () => {
      window.removeEventListener('keyup', up);
      window.removeEventListener('blur', end);
    };
  }, [look]);
  return {
    look,
    /** Held down: repeats of the key change nothing. */
    under: () => setLook((now) => now ?? { angle: null }),
    /** By a button: until it is pressed again. */
    turn: () => setLook((now) => (now ? null : { angle: null })),
    /** Another angle while it is held. */
    at: (angle: number) => setLook({ angle }),
  };
}
