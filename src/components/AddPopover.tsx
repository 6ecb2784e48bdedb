import Plus from 'lucide-react/icons/plus';
import type { ReactNode } from 'react';
import { Popover } from './Popover.tsx';

type Props = Omit<Parameters<typeof Popover>[0], 'button'> & {
  /** What is added: "New deal". */
  what: ReactNode;
  tiny?: boolean;
};

/** A button with a plus that opens a small panel to add something by. */
export const AddPopover = ({ what, tiny = false, ...rest }: Props) => (
  <Popover
    {...rest}
    button={
      <>
        <Plus className={tiny ? 'size-3' : 'size-4'} aria-hidden="true" />
        {what}
      </>
    }
  />
);
