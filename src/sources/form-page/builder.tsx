import { useState } from 'react';
import { bound } from '../../components/bound.ts';
import { Area, Line, Tick } from '../../components/fields.tsx';
import { ScreensEditor } from '../../components/ScreensEditor.tsx';
import { FIELD_KINDS } from '../../core/form/field-kinds.ts';
import type { FormPage } from '../../core/form/form-page.ts';
import type { SourcePanelProps } from '../source-form.ts';

/** The page to build, with its look on a phone beside it. */
export default function FormPageBuilder({ source, change }: SourcePanelProps) {
  const saved = source.settings.page as FormPage;
  const [page, setPage] = useState(saved);
  const [problem, setProblem] = useState('');
  const [shownAt, setShownAt] = useState(0);
  const changed = JSON.stringify(page) !== JSON.stringify(saved);
  const set = (patch: Partial<FormPage>) => setPage({ ...page, ...patch });
  const of = bound(page, set);
  const save = () =>
    change({ page }).then(
      () => {
        setProblem('');
        setShownAt(Date.now());
      },
      (error: unknown) => setProblem(error instanceof Error ? error.message : String(error)),
    );
  return (
    <div className="grid gap-4 grid-cols-1 xl:grid-cols-[minmax(0,1fr)_380px]">
      <section className="sheet-card p-4" data-testid="form-editor" aria-label="Build the page">
        <div>
          <Line small maxLength={2000} label="Title" {...of('title')} />
          <Area rows={2} label="Introduction" {...of('intro')} />
          <ScreensEditor
            screens={page.screens}
            kinds={FIELD_KINDS}
            kept={saved.screens.flatMap((screen) => screen.fields.map((field) => field.key))}
            onChange={(screens) => set({ screens })}
          />
          <Tick
            label="Ask for consent to texts and email"
            block="mb-2 flex items-center gap-2"
            value={page.consent.asked}
            onChange={(on) => set({ consent: { ...page.consent, asked: on } })}
          />
          {page.consent.asked && (
            <>
              <Area
                rows={2}
                label={`What people agree to${saved.consent.wordings.length > 0 ? ` (version ${saved.consent.wordings.at(-1)!.version} is on the page; a change makes a new version)` : ''}`}
                value={page.consent.text}
                onChange={(text) => set({ consent: { ...page.consent, text } })}
              />
              <Tick
                label="Nobody can send the form without agreeing"
                block="mb-3 flex items-center gap-2 text-note"
                value={page.consent.required}
                onChange={(on) => set({ consent: { ...page.consent, required: on } })}
              />
            </>
          )}
          <Line small maxLength={2000} label="Words on the button" {...of('button')} />
          <Line
            small
            maxLength={2000}
            label="Thank-you screen, title"
            value={page.thanks.title}
            onChange={(title) => set({ thanks: { ...page.thanks, title } })}
          />
          <Area
            rows={2}
            label="Thank-you screen, text"
            value={page.thanks.text}
            onChange={(text) => set({ thanks: { ...page.thanks, text } })}
          />
          {problem && (
            <p className="notice bad mb-2" role="alert">
              {problem}
            </p>
          )}
          <button type="button" className="btn btn-primary btn-sm" disabled={!changed} onClick={() => void save()}>
            Put this on the page
          </button>
          {changed && <span className="ml-3 text-note text-ink-2">Visitors still see the page as it was.</span>}
        </div>
      </section>
      <section className="sheet-card self-start p-4" aria-label="As on a phone">
        <h2 className="text-part">As on a phone</h2>
        <iframe
          key={shownAt}
          title="The page as on a phone"
          src={source.address}
          className="mx-auto mt-3 h-[560px] w-[340px] max-w-full rounded-2xl border border-base-300"
        />
      </section>
    </div>
  );
}
