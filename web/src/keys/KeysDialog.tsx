import { Ask } from '../parts/Ask';
import type { Key } from './table';

/** More keys than are read in one column. */
const MANY = 16;

/** The keys of a place. */
export function KeysDialog({
  keys,
  open,
  onClose,
}: {
  keys: readonly Key[];
  open: boolean;
  onClose: () => void;
}) {
  const many = keys.length > MANY;
  return (
    <Ask title="Keys here" open={open} onClose={onClose} width={many ? 940 : 420}>
      <dl className={`mt-3 overflow-y-auto ${many ? 'columns-2 gap-8' : ''}`}>
        {keys.map(({ keys: key, does }) => (
          <div
            key={`${key} ${does}`}
            className="flex min-h-7 break-inside-avoid items-center border-t border-line"
          >
            <dt className="num w-28 shrink-0 text-soft">{key}</dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Ask>
  );
}
