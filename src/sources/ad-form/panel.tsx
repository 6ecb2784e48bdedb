import type { SourcePanelProps } from '../source-form.ts';

export default function AdFormPanel({ source, practiceUrl }: SourcePanelProps) {
  const { formName, pageName, scope, how } = source.settings as Record<string, string>;
  if (source.arrivals > 0) return null;
  return (
    <section className="sheet-card mb-4 p-4">
      <h2 className="mb-1 text-part">Catch one</h2>
      <p className="text-ink-2">
        Fill in {scope === 'page' ? `any form of ${pageName}` : `the ${formName} form`} once, as a customer would
        {how === 'pull' ? ', or fetch the newest entry there is' : '; the entry appears here by itself'}.
        {practiceUrl && (
          <>
            {' '}
            The form is at the{' '}
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
