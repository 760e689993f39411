import { createContext } from 'react';

type Shown = { shown: boolean; show: (shown: boolean) => void };

/** Whether the keys of the place are shown: they stay while what a place shows is still being opened. */
export const KeysShown = createContext<Shown>({ shown: false, show: () => undefined });
