import { useContext } from 'react';
import type { Turned, Turns } from '../api/types';
import { Button } from './Button';
import { SayContext } from './message';

type Way = 'undo' | 'redo';

/** Undo and redo of a document, each where there is something. */
export function Turn({ turns, onTurn }: { turns: Turns; onTurn: (way: Way) => void }) {
  return (
    <>
      <Button small disabled={!turns.undo} title={turns.undo ?? undefined} onClick={() => onTurn('undo')}>
        Undo
      </Button>
      <Button small disabled={!turns.redo} title={turns.redo ?? undefined} onClick={() => onTurn('redo')}>
        Redo
      </Button>
    </>
  );
}

/** Says what was taken back, or made again. */
export function useTurned() {
  const say = useContext(SayContext);
  return (way: Way, turned: Turned | undefined) =>
    turned && say(`${way === 'undo' ? 'Taken back' : 'Made again'}: ${turned.what}`);
}
