import { AlertDialog } from "radix-ui";
import type { ReactNode } from "react";

interface DialogProps {
  isOpen: boolean;
  title: string;
  text: string;
  failure?: string;
  /** Subject of the question. */
  body?: ReactNode;
  /** Buttons; the last is the suggested one. */
  children: ReactNode;
}

/** A question that has to be answered before anything else. */
export function Dialog({ isOpen, title, text, failure, body, children }: DialogProps) {
  return (
    <AlertDialog.Root open={isOpen}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-sunk/80" />
        <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 grid w-[30rem] -translate-x-1/2 -translate-y-1/2 gap-3 rounded-lg border border-rule bg-ground p-6">
          <AlertDialog.Title className="text-xl font-semibold">{title}</AlertDialog.Title>
          <AlertDialog.Description className="text-mist">{text}</AlertDialog.Description>
          {body}
          {failure && (
            <p role="alert" className="text-alarm">
              {failure}
            </p>
          )}
          <div className="mt-2 flex justify-end gap-2">{children}</div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
