import { useContext, useEffect, useState, type ComponentType } from 'react';
import { SayContext } from '../parts/message';

/**
 * A place that is fetched when it is needed, or before: one that is there stands at once. (React's own way shows what it had to
 * wait for a third of a second later, even where it has come.)
 */
export function late<P extends object>(load: () => Promise<ComponentType<P>>) {
  let known: ComponentType<P> | null = null;
  const fetch = async () => (known ??= await load());
  function Late(props: P) {
    const say = useContext(SayContext);
    const [Own, setOwn] = useState<ComponentType<P> | null>(() => known);
    useEffect(() => {
      if (Own) return;
      fetch().then(
        (found) => setOwn(() => found),
        () => say('This place could not be fetched: reload the page.'),
      );
    }, [Own, say]);
    return Own ? <Own {...props} /> : <p className="p-8 text-soft">Opening…</p>;
  }
  return [Late, fetch] as const;
}
