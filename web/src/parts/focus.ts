/** Gives the focus to the field of an id. */
export const focusOn = (id: string) => document.getElementById(id)?.focus();
