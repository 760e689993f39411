/** Angles of a wall, page by page, and how they fill the room. */

/** The most pictures that are seen at once. */
export const ON_A_PAGE = 16;
/** As many angles have a number key. */
export const NUMBERED = 9;

/** So many things in as few parts of at most `most` as can be, as even as can be: the first of each, and the one behind its last. */
function evenly(count: number, most: number): [number, number][] {
  const parts = Math.max(1, Math.ceil(count / most));
  return Array.from({ length: parts }, (_, i) => [
    Math.round((i * count) / parts),
    Math.round(((i + 1) * count) / parts),
  ]);
}

/** A page of angles, and those of its angles that have number keys. */
export type Bank = { page: [number, number]; keys: [number, number] };

/** The banks of so many angles, in order: a page that has more angles than there are number keys is several of them. */
export const banksOf = (count: number): Bank[] =>
  evenly(count, ON_A_PAGE).flatMap((page) =>
    evenly(page[1] - page[0], NUMBERED).map(([from, to]): Bank => ({
      page,
      keys: [page[0] + from, page[0] + to],
    })),
  );

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
