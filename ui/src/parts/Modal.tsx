import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

interface ModalProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  description?: string;
  children: ReactNode;
}

/** A dialog with a title; Esc and the cross close it. */
export function Modal({ open, onOpenChange, title, description, children }: ModalProps) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Dialog.Content
          {...(description ? {} : { "aria-describedby": undefined })}
          className="fixed top-[12vh] left-1/2 z-50 max-h-[76vh] w-[min(640px,92vw)] -translate-x-1/2 overflow-auto rounded border border-rule-strong bg-sheet p-5"
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <div>
              <Dialog.Title className="text-lg font-semibold">{title}</Dialog.Title>
              {description && <Dialog.Description className="text-quiet">{description}</Dialog.Description>}
            </div>
            <Dialog.Close aria-label="Close" className="size-7 rounded text-quiet hover:text-ink">
              ✕
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
