import Plus from 'lucide-react/icons/plus';
import X from 'lucide-react/icons/x';
import type { ReactNode } from 'react';
import { Tool } from './Tool.tsx';

/** Takes one of several away again. */
export function TakeAway({ label, onClick, disabled }: { label: string; onClick: () => void; disabled?: boolean }) {
  return (
    <Tool label={label} disabled={disabled} onClick={onClick}>
      <X className="size-3.5" />
    </Tool>
  );
}

/** Adds one more below the others. */
export function AddOne({
  onClick,
  disabled,
  className = '',
  children,
}: {
  onClick: () => void;
  disabled?: boolean;
  className?: string;
  children: ReactNode;
}) {
  return (
    <button type="button" className={`btn btn-ghost btn-xs ${className}`} disabled={disabled} onClick={onClick}>
      <Plus className="size-3.5" aria-hidden="true" />
      {children}
    </button>
  );
}
