import {
  autoUpdate,
  FloatingFocusManager,
  FloatingPortal,
  flip,
  offset,
  type Placement,
  shift,
  size,
  useClick,
  useDismiss,
  useFloating,
  useInteractions,
  useRole,
  type VirtualElement,
} from '@floating-ui/react';
import { type ReactNode, useState } from 'react';

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

/** A button that opens a small panel beside itself; Escape or a click elsewhere closes it, and the keyboard goes into it and back. */
export function Popover({ button, buttonClass, label, testid, panelClass, placement = 'bottom-end', children }: Props) {
  const [open, setOpen] = useState(false);
  const { refs, floatingStyles, context } = useFloating({ open, onOpenChange: setOpen, ...around(placement) });
  const { getReferenceProps, getFloatingProps } = useInteractions([
    useClick(context),
    useDismiss(context, { bubbles: false }),
    useRole(context, { role: 'dialog' }),
  ]);
  return (
    <>
      <button
        ref={refs.setReference}
        type="button"
        className={buttonClass}
        aria-label={label}
        title={label}
        data-testid={testid}
        {...getReferenceProps()}
      >
        {button}
      </button>
      {open && (
        <FloatingPortal>
          <FloatingFocusManager context={context} modal={false} initialFocus={-1}>
            <div
              ref={refs.setFloating}
              style={floatingStyles}
              className={`sheet-card z-50 overflow-y-auto shadow-lg ${panelClass}`}
              {...getFloatingProps()}
            >
              {children(() => setOpen(false))}
            </div>
          </FloatingFocusManager>
        </FloatingPortal>
      )}
    </>
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
  at: VirtualElement;
  label: string;
  panelClass: string;
  onClose: () => void;
  children: ReactNode;
}) {
  const { refs, floatingStyles, context } = useFloating({
    open: true,
    onOpenChange: (open) => {
      if (!open) onClose();
    },
    elements: { reference: null },
    ...around('bottom-start'),
  });
  const [placed, setPlaced] = useState<VirtualElement | null>(null);
  if (placed !== at) {
    setPlaced(at);
    refs.setPositionReference(at);
  }
  const { getFloatingProps } = useInteractions([
    useDismiss(context, { bubbles: false }),
    useRole(context, { role: 'dialog' }),
  ]);
  return (
    <FloatingPortal>
      <FloatingFocusManager context={context} modal={false} initialFocus={-1} returnFocus={false}>
        <div
          ref={refs.setFloating}
          style={floatingStyles}
          className={`sheet-card z-50 overflow-y-auto shadow-lg ${panelClass}`}
          role="dialog"
          aria-label={label}
          {...getFloatingProps()}
        >
          {children}
        </div>
      </FloatingFocusManager>
    </FloatingPortal>
  );
}
