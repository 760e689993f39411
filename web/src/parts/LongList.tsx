import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';

type Props<T> = {
  label: string;
  /** The columns, as a class, and what stands above them. */
  grid: string;
  heads: readonly string[];
  rows: readonly T[];
  keyOf: (row: T) => string | number;
  /** Least height of a row, pixels. */
  height: number;
  /** The row that is chosen: it is kept in sight. */
  at: number;
  onChoose: (index: number) => void;
  cells: (row: T) => ReactNode;
};

/** A list of any length, of which only what is in sight is there. One row can be reached by tab; the keys of the place choose from there. */
export function LongList<T>({ label, grid, heads, rows, keyOf, height, at, onChoose, cells }: Props<T>) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    // A row that others come before keeps its own height.
    getItemKey: (index) => {
      const row = rows[index];
      return row === undefined ? index : keyOf(row);
    },
    overscan: 10,
  });
  useEffect(() => {
    virtual.scrollToIndex(at);
  }, [virtual, at]);
  const columns = `grid items-center gap-3 border-b border-line px-4 ${grid}`;
  return (
    <div role="grid" aria-label={label} aria-rowcount={rows.length} className="flex min-h-0 flex-1 flex-col">
      <div
        role="row"
        className={`h-7 shrink-0 overflow-hidden text-soft [scrollbar-gutter:stable] ${columns}`}
      >
        {heads.map((head, i) => (
          <span key={i} role="columnheader">
            {head}
          </span>
        ))}
      </div>
      <div
        ref={scroller}
        role="rowgroup"
        className="min-h-0 flex-1 overflow-y-auto [scrollbar-gutter:stable]"
      >
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index];
            return (
              row !== undefined && (
                <div
                  key={keyOf(row)}
                  ref={virtual.measureElement}
                  data-index={index}
                  role="row"
                  aria-rowindex={index + 1}
                  aria-selected={index === at}
                  tabIndex={index === at ? 0 : -1}
                  onClick={() => onChoose(index)}
                  style={{ top: start, minHeight: height }}
                  className={`absolute w-full ${columns} ${index === at ? 'bg-band' : ''}`}
                >
                  {cells(row)}
                </div>
              )
            );
          })}
        </div>
      </div>
    </div>
  );
}
