import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import type { Key } from './table';

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
  return (
    <Dialog open={open} onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-black/40" aria-hidden />
      <div className="fixed inset-0 flex items-center justify-center">
        <DialogPanel className="w-[420px] rounded-[3px] border border-line bg-sheet p-5 shadow-lg">
          <DialogTitle className="mb-3 text-[15px] font-semibold">Keys here</DialogTitle>
          <dl>
            {keys.map(({ keys: key, does }) => (
              <div key={key} className="flex h-7 items-center border-t border-line">
                <dt className="num w-36 text-soft">{key}</dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
