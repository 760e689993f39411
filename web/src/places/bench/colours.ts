/** The theme's colours for what is drawn on canvases. */
export function colours(element: Element): (name: 'ink' | 'accent' | 'check' | 'soft') => string {
  const style = getComputedStyle(element);
  return (name) => style.getPropertyValue(`--${name}`).trim();
}
