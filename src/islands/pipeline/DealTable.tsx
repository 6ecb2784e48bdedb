import type { BoardDeal, Board as BoardView } from '../../app/deals/deals.ts';
import { within } from '../../client/within.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { amount } from './deal-words.ts';

export function Table({
  board,
  place,
  now,
  onChange,
}: {
  board: BoardView;
  place: Place;
  now: number;
  onChange: (deal: BoardDeal, patch: { stageId?: string; value?: string; nextStep?: string }) => Promise<void>;
}) {
  return (
    <div className="min-h-0 grow overflow-auto p-4">
      <div className="sheet-card">
        <table className="table">
          <thead>
            <tr>
              <th>Deal</th>
              <th>Lead</th>
              <th>Stage</th>
              <th className="text-right">Value, {board.currency}</th>
              <th>Owner</th>
              <th>Next step</th>
              <th>Moved</th>
            </tr>
          </thead>
          <tbody>
            {board.deals.map((deal) => (
              <tr key={deal.id}>
                <td className="font-semibold">{deal.title}</td>
                <td>
                  <a className="hover:underline" href={within(`/leads/${deal.leadId}`)}>
                    {deal.lead}
                  </a>
                </td>
                <td>
                  <select
                    className="select select-xs"
                    aria-label={`Stage of ${deal.title}`}
                    value={deal.stageId}
                    onChange={(event) => void onChange(deal, { stageId: event.target.value })}
                  >
                    {board.stages.map((stage) => (
                      <option key={stage.id} value={stage.id}>
                        {stage.name}
                      </option>
                    ))}
                  </select>
                </td>
                <td className="text-right">
                  <input
                    key={deal.value}
                    className="input input-xs text-right"
                    style={{ width: 100 }}
                    aria-label={`Value of ${deal.title}`}
                    defaultValue={amount(deal.value, place.locale)}
                    onBlur={(event) => {
                      if (event.target.value !== amount(deal.value, place.locale))
                        void onChange(deal, { value: event.target.value });
                    }}
                  />
                </td>
                <td>{deal.owner}</td>
                <td>
                  <input
                    key={deal.nextStep}
                    className="input input-xs"
                    aria-label={`Next step of ${deal.title}`}
                    defaultValue={deal.nextStep}
                    maxLength={300}
                    onBlur={(event) => {
                      if (event.target.value !== deal.nextStep) void onChange(deal, { nextStep: event.target.value });
                    }}
                  />
                </td>
                <td className="text-ink-2">
                  {whenWords(deal.movedAt, now, place)}
                  {deal.movedBy && `, by ${deal.movedBy}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
