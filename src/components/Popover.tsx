import { type ReactNode, useEffect, useRef, useState } from 'react';

interface Props {
  /** What stands on the button. */
  button: ReactNode;
  buttonClass: string;
  /** Needed where the button shows no words. */
  label?: string;
  testid?: string;
  panelClass: string;
  children: (close: () => void) => ReactNode;
}

/** A button that opens a small panel below itself; Escape or a click elsewhere closes it. */
export function Popover({ button, buttonClass, label, testid, panelClass, children }: Props) {
  const [open, setOpen] = useState(false);
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!open) return;
    const key = (event: KeyboardEvent) => {
      if (event.key !== 'Escape') return;
      event.stopPropagation();
      setOpen(false);
      host.current?.querySelector('button')?.focus();
    };
    const away = (event: PointerEvent) => {
      if (!host.current?.contains(event.target as Node)) setOpen(false);
    };
    document.addEventListener('keydown', key, true);
    document.addEventListener('pointerdown', away);
    return () => {
      document.removeEventListener('keydown', key, true);
      document.removeEventListener('pointerdown', away);
    };
  }, [open]);
  return (
    <div className="relative" ref={host}>
      <button
        type="button"
        className={buttonClass}
        aria-label={label}
        title={label}
        aria-expanded={open}
        data-testid={testid}
        onClick={() => setOpen(!open)}
      >
        {button}
      </button>
      {open && (
        <div className={`sheet-card absolute z-40 shadow-lg ${panelClass}`}>{children(() => setOpen(false))}</div>
      )}
    </div>
  );
}
