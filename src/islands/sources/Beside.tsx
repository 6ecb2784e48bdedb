import type { ReactNode } from 'react';

/** What came in on the left, what is chosen of it beside; below each other where there is no room. */
export const Beside = ({ left, children }: { left: ReactNode; children: ReactNode }) => (
  <div className="grid gap-4 grid-cols-1 lg:grid-cols-[380px_minmax(0,1fr)]">
    <div className="min-w-0">{left}</div>
    <div className="min-w-0">{children}</div>
  </div>
);
