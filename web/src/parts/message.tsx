import { createContext, useContext } from 'react';

/** Says a sentence at the foot of the page. */
export const SayContext = createContext<(text: string) => void>(() => undefined);

/** Runs a request; a refusal is said, not swallowed. */
export function useAsk() {
  const say = useContext(SayContext);
  return async <T,>(work: Promise<T>): Promise<T | undefined> => {
    try {
      return await work;
    } catch (error) {
      say(error instanceof Error ? error.message : String(error));
      return undefined;
    }
  };
}
