import type { Turns } from '../api/types';
import { Button } from './Button';

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
