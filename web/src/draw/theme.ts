/** The room the page is looked at in: a light one, or a dim one. */
export type Room = 'film' | 'dim';

const KEPT = 'theme';
const listeners = new Set<() => void>();

/** The theme that is shown, kept from one visit to the next. */
export const theme = {
  shown: (): Room => (document.documentElement.dataset['theme'] === 'dim' ? 'dim' : 'film'),
  /** Shows what was shown last. */
  open: () => {
    document.documentElement.dataset['theme'] = localStorage.getItem(KEPT) === 'dim' ? 'dim' : 'film';
  },
  show: (room: Room) => {
    localStorage.setItem(KEPT, room);
    document.documentElement.dataset['theme'] = room;
    for (const listener of listeners) listener();
  },
  subscribe: (listener: () => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
};
