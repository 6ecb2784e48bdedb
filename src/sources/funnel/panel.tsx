import { ByHand } from '../../components/ByHand.tsx';
import { EventChoice } from '../../components/EventChoice.tsx';
import { FirstOne } from '../../components/FirstOne.tsx';
import type { SourcePanelProps } from '../source-form.ts';
import { EVENTS } from './form.tsx';

export default function FunnelPanel({ source, practiceUrl, change, ask }: SourcePanelProps) {
  const { events, stepName, funnelName } = source.settings as {
    events: (typeof EVENTS)[number]['value'][];
    stepName: string;
    funnelName: string;
  };
  return (
    <>
      <ByHand source={source} ask={ask} />
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={practiceUrl}>
          Opt in once at the page "{stepName}" of {funnelName}; it appears here by itself.
        </FirstOne>
      )}
      <section className="sheet-card mb-4 px-4 pt-3 pb-1">
        <EventChoice
          label="Listens for"
          options={EVENTS}
          value={events}
          onChange={(list) => void change({ events: list })}
        />
      </section>
    </>
  );
}
