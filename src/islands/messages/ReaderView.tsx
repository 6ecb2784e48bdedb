import type { TemplateView } from '../../app/messages/email-templates.ts';
import { EmailPreview } from '../../components/EmailPreview.tsx';

/** An email as an invented reader sees it, with what is to look at of the whole of it. */
export function ReaderView({ shown }: { shown: TemplateView['shown'] }) {
  return (
    <aside className="overflow-y-auto border-l border-base-300 bg-base-200 p-3" aria-label="What readers see">
      <h2 className="mb-2 font-sans text-note font-semibold text-ink-2">What Robin Vale, an invented reader, sees</h2>
      {shown.problems
        .filter((problem) => problem.blockId === null)
        .map((problem) => (
          <p key={problem.text} className="notice warn mb-2 text-note">
            {problem.text}
          </p>
        ))}
      <EmailPreview html={shown.html} room={412} height={560} />
      <details className="mt-3">
        <summary className="cursor-pointer text-note text-ink-2">As plain text</summary>
        <p className="mt-1 rounded-lg bg-base-100 p-3 text-note break-words whitespace-pre-wrap">{shown.text}</p>
      </details>
    </aside>
  );
}
