import type { RehearsedLead } from '../../app/workflows/rehearse.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';

/** The last real leads, each through the sheet as it is now. */
export function LastLeads({
  leads,
  place,
  now,
  onChoose,
  onClose,
}: {
  leads: RehearsedLead[];
  place: Place;
  now: number;
  onChoose: (arrivalId: string) => void;
  onClose: () => void;
}) {
  const count = (what: string) => leads.filter((lead) => lead.messages.includes(what)).length;
  return (
    <section
      className="sheet-card absolute inset-x-4 top-3 z-30 max-h-[80%] overflow-y-auto p-4 shadow-lg"
      aria-label="The last leads"
    >
      <div className="mb-2 flex items-center gap-3">
        <h2 className="text-part">The last {leads.length} leads, rehearsed</h2>
        <span className="grow text-note text-ink-2">
          {count('Text')} would get a text, {count('Email')} an email,{' '}
          {leads.filter((lead) => lead.messages.length === 0).length} nothing. Nothing has left the building.
        </span>
        <button type="button" className="btn btn-ghost btn-xs" onClick={onClose}>
          Close
        </button>
      </div>
      {leads.length === 0 ? (
        <p className="text-ink-2">No lead has come in by these sources yet.</p>
      ) : (
        <table className="table table-xs">
          <thead>
            <tr>
              <th>Lead</th>
              <th>Came in</th>
              <th>Would get</th>
              <th>Stopped, and why</th>
            </tr>
          </thead>
          <tbody>
            {leads.map((lead) => (
              <tr key={lead.arrivalId} className="hover:bg-base-200">
                <td>
                  <button
                    type="button"
                    className="font-semibold hover:underline"
                    onClick={() => onChoose(lead.arrivalId)}
                  >
                    {lead.name}
                  </button>
                </td>
                <td className="text-ink-2">{whenWords(lead.receivedAt, now, place)}</td>
                <td>{lead.messages.join(', ') || 'nothing'}</td>
                <td className="text-warning">{lead.stopped ?? ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
