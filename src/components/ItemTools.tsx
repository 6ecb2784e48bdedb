import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import Copy from 'lucide-react/icons/copy';
import Trash2 from 'lucide-react/icons/trash-2';
import type { ReactNode } from 'react';
import { Tool } from './Tool.tsx';

/** What is done with one thing of several that stand below each other: `what` names it ("block"). What is given stands in the middle. */
export function ItemTools({
  what,
  first,
  last,
  onMove,
  onCopy,
  onRemove,
  children,
}: {
  what: string;
  first: boolean;
  last: boolean;
  onMove: (by: 1 | -1) => void;
  onCopy: () => void;
  onRemove: () => void;
  children?: ReactNode;
}) {
  return (
    <>
      <Tool label="Move up" disabled={first} onClick={() => onMove(-1)}>
        <ArrowUp className="size-4" />
      </Tool>
      <Tool label="Move down" disabled={last} onClick={() => onMove(1)}>
        <ArrowDown className="size-4" />
      </Tool>
      {children}
      <Tool label={`Copy this ${what}`} onClick={onCopy}>
        <Copy className="size-4" />
      </Tool>
      <Tool label={`Remove this ${what}`} onClick={onRemove}>
        <Trash2 className="size-4" />
      </Tool>
    </>
  );
}
