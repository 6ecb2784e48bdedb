import type { ReactNode } from 'react';

/** What to do so that a first item comes in, with the way to the practice desk where there is one. */
export function FirstOne({ practiceUrl, children }: { practiceUrl: string | null; children: ReactNode }) {
  return (
    <section className="sheet-card mb-4 p-4">
      <h2 className="mb-1 text-part">Catch one</h2>
      <p className="text-ink-2">
        {children}
        {practiceUrl && (
          <>
            {' '}
            You can do it at the{' '}
            <a className="link" href={practiceUrl} target="_blank" rel="noreferrer">
              practice desk
            </a>
            .
          </>
        )}
      </p>
    </section>
  );
}
