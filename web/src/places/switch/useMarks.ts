import { useState } from 'react';
import type { Line, LineEdit } from '../../api/types';
import type { Wall } from '../../play/wall';

/** The markers of a line: put where the playhead stands, and found by a word in their notes. */
export function useMarks(wall: Wall, line: Line, edit: (edit: LineEdit) => Promise<unknown>) {
  const [wanted, setWanted] = useState('');
  const markers = line.markers ?? [];
  return {
    wanted,
    want: setWanted,
    /** The frames of those whose notes hold the word. */
    found: markers
      .filter(({ note }) => note.toLowerCase().includes(wanted.trim().toLowerCase()))
      .map(({ at }) => at),
    /** One here, coloured as the last one; or none where there is one. */
    turn: () => {
      const at = wall.shownFrame;
      const there = markers.some((own) => own.at === at);
      void edit(
        there
          ? { do: 'take_marker', at }
          : { do: 'put_marker', marker: { at, colour: markers.at(-1)?.colour ?? 'brass', note: '' } },
      );
    },
  };
}
