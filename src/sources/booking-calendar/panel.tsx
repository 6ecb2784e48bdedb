import { ByHand } from '../../components/ByHand.tsx';
import { EventChoice } from '../../components/EventChoice.tsx';
import { FirstOne } from '../../components/FirstOne.tsx';
import type { SourcePanelProps } from '../source-form.ts';
import { EVENTS } from './form.tsx';

export default function CalendarPanel({ source, practiceUrl, change, ask }: SourcePanelProps) {
  const { events, calendars } = source.settings as {
    events: (typeof EVENTS)[number]['value'][];
    calendars: { name: string }[] | null;
  };
  return (
    <>
      <ByHand source={source} ask={ask} />
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={practiceUrl}>Book an appointment once; it appears here by itself.</FirstOne>
      )}
      <section className="sheet-card mb-4 px-4 pt-3 pb-1">
        <p className="mb-2 text-note text-ink-2">
          {calendars ? calendars.map((calendar) => calendar.name).join(', ') : 'All calendars, also later ones'}
        </p>
        <EventChoice
          label="When an appointment is"
          options={EVENTS}
          value={events}
          onChange={(list) => void change({ events: list })}
        />
      </section>
    </>
  );
}
