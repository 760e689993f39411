import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import type { ReactNode } from 'react';

type Props = {
  title: ReactNode;
  onClose: () => void;
  open?: boolean;
  /** Width of the panel, pixels. */
  width?: number;
  children: ReactNode;
};

/** Something that is asked or shown over the place: it closes by Escape, and keys go to it alone. */
export function Ask({ title, onClose, open = true, width = 680, children }: Props) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-black/40" aria-hidden />
      <div className="fixed inset-0 flex items-center justify-center p-8">
        <DialogPanel
          className="flex max-h-full flex-col rounded-[3px] border border-line bg-sheet p-5 shadow-lg"
          style={{ width }}
        >
          <DialogTitle className="text-[15px] font-semibold">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
