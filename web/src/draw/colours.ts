/** A colour of the theme by its name. */
export type Paint = (name: 'ink' | 'accent' | 'check' | 'soft') => string;

/** The theme's colours for what is drawn on canvases. */
export function colours(element: Element): Paint {
  const style = getComputedStyle(element);
  return (name) => style.getPropertyValue(`--${name}`).trim();
}
