import { lazy, type ReactNode, type RefObject, Suspense, useEffect, useRef, useState } from 'react';
import type { PanelProps, PlaceOnScreen } from './PopoverPanel.tsx';

const PopoverPanel = lazy(() => import('./PopoverPanel.tsx'));

/** Closes what is open by Escape and by a click outside of all that is inside. */
function useDismiss(open: boolean, inside: RefObject<HTMLElement | null>, close: (byKey: boolean) => void): void {
  const latest = useRef(close);
  useEffect(() => {
    latest.current = close;
  });
  useEffect(() => {
    if (!open) return;
    const key = (event: KeyboardEvent) => {
      if (event.key !== 'Escape') return;
      event.stopPropagation();
      latest.current(true);
    };
    const away = (event: PointerEvent) => {
      if (!inside.current?.contains(event.target as Node)) latest.current(false);
    };
    document.addEventListener('keydown', key, true);
    document.addEventListener('pointerdown', away);
    return () => {
      document.removeEventListener('keydown', key, true);
      document.removeEventListener('pointerdown', away);
    };
  }, [open, inside]);
}

interface Props {
  /** What stands on the button. */
  button: ReactNode;
  buttonClass: string;
  /** Needed where the button shows no words. */
  label?: string;
  testid?: string;
  /** The name the "To check" list knows it by. */
  field?: string | undefined;
  panelClass: string;
  placement?: PanelProps['placement'];
  children: (close: () => void) => ReactNode;
}

/** A button that opens a small panel beside itself; Escape or a click elsewhere closes it, and the keyboard is back on the button. */
export function Popover({
  button,
  buttonClass,
  label,
  testid,
  field,
  panelClass,
  placement = 'bottom-end',
  children,
}: Props) {
  const [open, setOpen] = useState(false);
  const host = useRef<HTMLSpanElement>(null);
  const opener = useRef<HTMLButtonElement>(null);
  useDismiss(open, host, (byKey) => {
    setOpen(false);
    if (byKey) opener.current?.focus();
  });
  return (
    <span ref={host} className="contents">
      <button
        ref={opener}
        type="button"
        className={buttonClass}
        aria-label={label}
        title={label}
        aria-expanded={open}
        aria-haspopup="dialog"
        data-testid={testid}
        data-field={field}
        onClick={() => setOpen(!open)}
      >
        {button}
      </button>
      {open && opener.current && (
        <Suspense>
          <PopoverPanel at={opener.current} placement={placement} panelClass={panelClass}>
            {children(() => setOpen(false))}
          </PopoverPanel>
        </Suspense>
      )}
    </span>
  );
}

/** The same for a place that is no button, such as a chip in a text: open as long as it is there. */
export function PopoverAt({
  at,
  label,
  panelClass,
  onClose,
  children,
}: {
  at: PlaceOnScreen;
  label: string;
  panelClass: string;
  onClose: () => void;
  children: ReactNode;
}) {
  const host = useRef<HTMLSpanElement>(null);
  useDismiss(true, host, onClose);
  return (
    <span ref={host} className="contents">
      <Suspense>
        <PopoverPanel at={at} placement="bottom-start" panelClass={panelClass} label={label}>
          {children}
        </PopoverPanel>
      </Suspense>
    </span>
  );
}
