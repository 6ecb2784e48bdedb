import type { ReactNode } from 'react';

/** A table that may be wider than its place: it is moved by finger, wheel or, once it has the keyboard, by the arrows (WCAG 2.2, 2.1.1). */
export function Wide({ what, children }: { what: string; children: ReactNode }) {
  return (
    <section className="overflow-x-auto" aria-label={what} tabIndex={0}>
      {children}
    </section>
  );
}
