import { useState } from 'react';

/** Which rows are chosen, by mouse and keyboard: one, a range, one more, all. */
export function useChoice(ids: number[]) {
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const [anchor, setAnchor] = useState(0);
  const [focus, setFocus] = useState(0);
  const range = (from: number, to: number) => new Set(ids.slice(Math.min(from, to), Math.max(from, to) + 1));

  const pick = (index: number, how: { extend?: boolean; toggle?: boolean } = {}) => {
    const id = ids[index];
    if (id === undefined) return;
    setFocus(index);
    if (how.extend) {
      setChosen(range(anchor, index));
      return;
    }
    setAnchor(index);
    if (!how.toggle) {
      setChosen(new Set([id]));
      return;
    }
    const next = new Set(chosen);
    if (next.has(id)) next.delete(id);
    else next.add(id);
    setChosen(next);
  };

  return {
    chosen,
    focus: Math.min(focus, Math.max(ids.length - 1, 0)),
    pick,
    all: () => setChosen(new Set(ids)),
    none: () => setChosen(new Set()),
    only: (wanted: number[]) => {
      setChosen(new Set(wanted));
      const first = ids.findIndex((id) => wanted.includes(id));
      if (first >= 0) {
        setFocus(first);
        setAnchor(first);
      }
      return first;
    },
  };
}

export type Choice = ReturnType<typeof useChoice>;
