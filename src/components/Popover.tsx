import { autoUpdate, flip, offset, type Placement, shift, size, useFloating } from '@floating-ui/react-dom';
import { type ReactNode, type RefObject, useEffect, useRef, useState } from 'react';

/** Where a panel stands: beside what opened it, on whichever side there is room, inside the window, and scrolled where it is taller. */
const around = (placement: Placement) => ({
  placement,
  strategy: 'fixed' as const,
  whileElementsMounted: autoUpdate,
  middleware: [
    offset(4),
    flip({ padding: 8 }),
    shift({ padding: 8, crossAxis: true }),
    size({
      padding: 8,
      apply: ({ availableHeight, elements }) => {
        elements.floating.style.maxHeight = `${Math.max(120, availableHeight)}px`;
      },
    }),
  ],
});
const PANEL = 'sheet-card z-50 overflow-y-auto shadow-lg';

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
  panelClass: string;
  placement?: Placement;
  children: (close: () => void) => ReactNode;
}

/** A button that opens a small panel beside itself; Escape or a click elsewhere closes it, and the keyboard is back on the button. */
export function Popover({ button, buttonClass, label, testid, panelClass, placement = 'bottom-end', children }: Props) {
  const [open, setOpen] = useState(false);
  const host = useRef<HTMLSpanElement>(null);
  const { refs, floatingStyles } = useFloating<HTMLButtonElement>({ open, ...around(placement) });
  useDismiss(open, host, (byKey) => {
    setOpen(false);
    if (byKey) refs.reference.current?.focus();
  });
  return (
    <span ref={host} className="contents">
      <button
        ref={refs.setReference}
        type="button"
        className={buttonClass}
        aria-label={label}
        title={label}
        aria-expanded={open}
        aria-haspopup="dialog"
        data-testid={testid}
        onClick={() => setOpen(!open)}
      >
        {button}
      </button>
      {open && (
        <div ref={refs.setFloating} style={floatingStyles} className={`${PANEL} ${panelClass}`}>
          {children(() => setOpen(false))}
        </div>
      )}
    </span>
  );
}

/** A place on the screen that is no button. */
export interface PlaceOnScreen {
  getBoundingClientRect(): DOMRect;
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
  const { refs, floatingStyles } = useFloating({ open: true, ...around('bottom-start') });
  const { setReference } = refs;
  useEffect(() => setReference(at), [at, setReference]);
  useDismiss(true, refs.floating, onClose);
  return (
    <div
      ref={refs.setFloating}
      style={floatingStyles}
      className={`${PANEL} ${panelClass}`}
      role="dialog"
      aria-label={label}
    >
      {children}
    </div>
  );
}
