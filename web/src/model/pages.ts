/** Angles of a wall, page by page, and how they fill the room. */

/** As many as there are number keys. */
export const ON_A_PAGE = 9;

/** The pages of so many angles: the first and the one behind the last of each, as even as can be. */
export function pagesOf(count: number): [number, number][] {
  const pages = Math.max(1, Math.ceil(count / ON_A_PAGE));
  return Array.from({ length: pages }, (_, i) => [
    Math.round((i * count) / pages),
    Math.round(((i + 1) * count) / pages),
  ]);
}

/** How many side by side make pictures of 16:9 largest in a room of so many pixels; `foot` is below each. */
export function across(count: number, width: number, height: number, foot: number): number {
  let best = { columns: 1, size: 0 };
  for (let columns = 1; columns <= Math.max(1, count); columns++) {
    const rows = Math.ceil(count / columns);
    const size = Math.min(width / columns, ((height / rows - foot) * 16) / 9);
    if (size > best.size) best = { columns, size };
  }
  return best.columns;
}
