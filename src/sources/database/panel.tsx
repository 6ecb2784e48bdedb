import { FirstOne } from '../../components/FirstOne.tsx';
import type { SourcePanelProps } from '../source-form.ts';
import type { DatabaseSettings } from './definition.ts';

export default function DatabasePanel({ source }: SourcePanelProps) {
  const { view, key, mark } = source.settings as DatabaseSettings;
  return (
    <>
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={null}>Fetch the newest row to see what it brings, or wait for a new one.</FirstOne>
      )}
      <section className="sheet-card mb-4 p-4">
        <h2 className="mb-1 text-part">The view</h2>
        <p>
          <code className="font-mono text-xs">{view}</code>, each row known by{' '}
          <code className="font-mono text-xs">{key}</code>, new ones by{' '}
          <code className="font-mono text-xs">{mark}</code>. It is read and never written to.
        </p>
      </section>
    </>
  );
}
