import { call } from '../../client/call.ts';
import type { WorkingTime } from '../../core/people/working-time.ts';
import type { Place } from '../../core/words/instant.ts';
import { WorkingHours } from './WorkingHours.tsx';

/** When one works oneself. */
export default function MyWorkingHours({
  first,
  place,
  zoneName,
}: {
  first: WorkingTime | null;
  place: Place;
  zoneName: string;
}) {
  return (
    <section className="sheet-card mb-4 p-4" aria-label="When you work">
      <h2 className="mb-1 text-part">When you work</h2>
      <p className="mb-3 text-note text-ink-2">
        Workflows tell you of leads in these hours only, and hold time on these days; where several take turns, the turn
        passes on.
      </p>
      <WorkingHours
        {...{ first, place, zoneName }}
        onSave={(working) => call('PUT', '/api/my-working-time', { working })}
      />
    </section>
  );
}
