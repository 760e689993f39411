/** A colour of the theme by its name, or by the variable that a style has it in (`var(--hue-2)`). */
export type Paint = (name: 'ink' | 'accent' | 'check' | 'soft' | `var(--${string})`) => string;

/** The theme's colours for what is drawn on canvases. */
export function colours(element: Element): Paint {
  const style = getComputedStyle(element);
  return (name) => {
    const variable = /^var\((--[^)]+)\)$/.exec(name)?.[1] ?? `--${name}`;
    return style.getPropertyValue(variable).trim();
  };
}
