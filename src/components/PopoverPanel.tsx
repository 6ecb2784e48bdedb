import { autoUpdate, flip, offset, type Placement, shift, size, useFloating } from '@floating-ui/react-dom';
import { type ReactNode, useLayoutEffect } from 'react';

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

/** A place on the screen: a button, or only where something is. */
export interface PlaceOnScreen {
  getBoundingClientRect(): DOMRect;
}

export interface PanelProps {
  at: PlaceOnScreen;
  placement: Placement;
  panelClass: string;
  /** Where it is no button that says so. */
  label?: string | undefined;
  children: ReactNode;
}

/** A small panel beside a place, inside the window. In a file of its own: how to place it is only needed once one is opened. */
export default function PopoverPanel({ at, placement, panelClass, label, children }: PanelProps) {
  const { refs, floatingStyles } = useFloating({ open: true, ...around(placement) });
  const { setReference } = refs;
  useLayoutEffect(() => setReference(at), [at, setReference]);
  return (
    <div
      ref={refs.setFloating}
      style={floatingStyles}
      className={`${PANEL} ${panelClass}`}
      {...(label ? { role: 'dialog', 'aria-label': label } : {})}
    >
      {children}
    </div>
  );
}
