import { lazy, useState, type ComponentType } from 'react';

/**
 * A place that is fetched when it is needed, or before: one that is there stands at once. (What is lazy is waited for even where
 * it has come, and what was waited for is shown a third of a second later.)
 */
export function late<P extends object>(load: () => Promise<ComponentType<P>>) {
  let known: ComponentType<P> | null = null;
  const fetch = async () => (known ??= await load());
  const Waited = lazy(async () => ({ default: await fetch() }));
  function Late(props: P) {
    // As long as it stands it is the same, or it would begin anew.
    const [Own] = useState<ComponentType<P>>(() => known ?? (Waited as unknown as ComponentType<P>));
    return <Own {...props} />;
  }
  return [Late, fetch] as const;
}
