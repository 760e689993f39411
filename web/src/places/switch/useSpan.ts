import { useState } from 'react';

/** Frames of a group, from and up to. */
export type Span = { from: number; to: number };

/** In and out point: what lies between them, where both are there. */
export function useSpan(frames: number) {
  const [points, setPoints] = useState<{ begin: number | null; end: number | null }>({
    begin: null,
    end: null,
  });
  const { begin, end } = points;
  const from = Math.min(begin ?? 0, frames);
  const to = Math.min(end ?? frames, frames);
  const span: Span | null = (begin !== null || end !== null) && from < to ? { from, to } : null;
  return {
    span,
    /** The in point, or none where it was. One behind the out point leaves that behind. */
    begin: (at: number) =>
      setPoints(
        begin === at ? { begin: null, end } : { begin: at, end: end !== null && end > at ? end : null },
      ),
    /** The out point, behind a frame, or none where it was. */
    end: (at: number) =>
      setPoints(
        end === at + 1
          ? { begin, end: null }
          : { begin: begin !== null && begin <= at ? begin : null, end: at + 1 },
      ),
    clear: () => setPoints({ begin: null, end: null }),
  };
}
