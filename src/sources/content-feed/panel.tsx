import { FirstOne } from '../../components/FirstOne.tsx';
import type { SourcePanelProps } from '../source-form.ts';

export default function FeedPanel({ source, practiceUrl }: SourcePanelProps) {
  return (
    <>
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={practiceUrl}>
          Fetch the newest entry to see what it brings, or wait until something is published.
        </FirstOne>
      )}
      <section className="sheet-card mb-4 p-4">
        <h2 className="mb-1 text-part">The feed</h2>
        <a className="link break-all" href={String(source.settings.address)} rel="noreferrer" target="_blank">
          {String(source.settings.address)}
        </a>
      </section>
    </>
  );
}
