import { type ReactNode, useEffect, useRef } from 'react';

/** A dialog over the page: what is behind it waits, Escape or a click beside it closes it, and the keyboard is back where it was. */
export function Modal({
  label,
  className = '',
  onClose,
  children,
}: {
  label: string;
  className?: string;
  onClose: () => void;
  children: ReactNode;
}) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    dialog.current?.showModal();
  }, []);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: by keyboard it is closed with Escape, which the dialog sees to itself.
    <dialog
      ref={dialog}
      aria-label={label}
      className={`m-auto rounded-box border border-base-300 bg-base-100 p-0 text-base-content shadow-xl backdrop:bg-black/40 ${className}`}
      onClose={onClose}
      onClick={(event) => event.target === dialog.current && dialog.current.close()}
    >
      {children}
    </dialog>
  );
}
