import ChevronDown from 'lucide-react/icons/chevron-down';
import type { ReactNode } from 'react';
import { Popover } from './Popover.tsx';

/** A button that looks like a list to choose from and opens one that can be searched. */
export const ListPopover = ({
  label,
  words,
  empty,
  field,
  tiny = false,
  children,
}: {
  label: string;
  /** What is chosen. */
  words: string;
  /** Nothing is chosen yet. */
  empty: boolean;
  field?: string | undefined;
  tiny?: boolean;
  children: (close: () => void) => ReactNode;
}) => (
  <Popover
    button={
      <>
        <span className={`min-w-0 grow truncate text-left ${empty ? 'text-ink-2' : ''}`}>{words}</span>
        <ChevronDown className={tiny ? 'size-3 shrink-0' : 'size-4 shrink-0'} aria-hidden="true" />
      </>
    }
    // The name with what is chosen, since a button's words are all that is read of it.
    label={`${label}: ${words}`}
    field={field}
    buttonClass={`select ${tiny ? 'select-xs pe-2' : 'pe-3'} flex items-center !bg-none`}
    panelClass="w-72 p-1"
    placement="bottom-start"
  >
    {children}
  </Popover>
);
