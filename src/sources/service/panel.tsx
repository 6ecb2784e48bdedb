import { within } from '../../client/within.ts';
import { FirstOne } from '../../components/FirstOne.tsx';
import type { SourcePanelProps } from '../source-form.ts';

export default function ServiceSourcePanel({ source, practiceUrl }: SourcePanelProps) {
  const { connectionId, way, label } = source.settings as {
    connectionId: string;
    way: 'fetch' | 'push';
    label: string;
  };
  return (
    <>
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={practiceUrl}>
          {way === 'fetch'
            ? 'Fetch the newest one to see what it brings, or wait until there is something new.'
            : 'Have something happen there: it appears here by itself.'}
        </FirstOne>
      )}
      <section className="sheet-card mb-4 p-4">
        <h2 className="mb-1 text-part">The service</h2>
        <p>
          {way === 'fetch' ? `“${label}” is fetched on a schedule.` : 'It tells us by itself.'}{' '}
          <a className="link" href={within(`/connections/${connectionId}`)}>
            How it is called
          </a>
        </p>
      </section>
    </>
  );
}
