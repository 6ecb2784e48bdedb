import { CopyLine } from '../../components/CopyLine.tsx';
import type { SourcePanelProps } from '../source-form.ts';

/** The link to the page, and the code that puts it on a site. */
export default function FormPagePanel({ source }: SourcePanelProps) {
  const origin = new URL(source.address).origin;
  const embed = `<div data-pine-bell-form="${source.address}"></div>\n<script src="${origin}/form-embed.js" async></script>`;
  return (
    <section className="sheet-card mb-4 p-4" aria-label="The page">
      <h2 className="mb-1 text-part">The page</h2>
      <p className="mb-2 text-note text-ink-2">
        Link to it, or put it on your site.{' '}
        <a className="link" href={source.address} target="_blank" rel="noreferrer">
          Open it
        </a>
        {source.arrivals === 0 && ' and fill it in once; what you send appears here.'}
      </p>
      <CopyLine text={source.address} what="Link" testid="form-link" />
      <details>
        <summary className="cursor-pointer text-note text-ink-2">Code to put it on your site</summary>
        <div className="mt-1">
          <CopyLine text={embed} what="Code" />
        </div>
      </details>
    </section>
  );
}
