import Download from 'lucide-react/icons/download';
import { useState } from 'react';
import type { SegmentRow } from '../../app/leads/segments.ts';
import { within } from '../../client/within.ts';
import { Popover } from '../../components/Popover.tsx';
import { queryOfChoice } from '../../core/people/choice-query.ts';
import { EVERYBODY, isEverybody, type LeadChoice } from '../../core/people/lead-choice.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { BulkPanel } from './BulkPanel.tsx';
import { BulkProgress } from './BulkProgress.tsx';
import { SegmentPanel } from './SegmentPanel.tsx';
import { useTicked } from './use-ticked.ts';

interface Props {
  /** The choice the page shows, and how many fit it. */
  choice: LeadChoice;
  total: number;
  segments: SegmentRow[];
  answers: { answers: string[]; own: string[] };
  catalogue: Catalogue;
  /** Whether the person may change anything, and whether they may erase. */
  changes: boolean;
  owner: boolean;
  locale: string;
}

/** Narrows leads down by questions, keeps these as segments, and does one thing with all of them or the ticked ones. */
export default function LeadTools({ choice, total, segments, answers, catalogue, changes, owner, locale }: Props) {
  const ticked = useTicked();
  const [begun, setBegun] = useState(0);
  const meant: LeadChoice =
    ticked.length > 0 ? { ...EVERYBODY, ids: ticked, list: choice.list && { ...choice.list, state: null } } : choice;
  const many = ticked.length > 0 ? ticked.length : total;
  const count = (n: number) => n.toLocaleString(locale);
  const people = `${count(many)} ${many === 1 ? 'lead' : 'leads'}`;
  const file = (format: string) => `/api/leads/file?${queryOfChoice(meant)}&format=${format}`;
  return (
    <div className="mb-3">
      <div className="flex flex-wrap items-start gap-2">
        <SegmentPanel choice={choice} segments={segments} answers={answers} catalogue={catalogue} changes={changes} />
        {changes && total > 0 && (
          <div className="ml-auto flex items-center gap-2">
            <span className="text-note text-ink-2" data-testid="meant">
              {ticked.length > 0
                ? `${count(ticked.length)} ticked`
                : isEverybody(choice)
                  ? `All ${count(total)}`
                  : `${count(total)} fit`}
            </span>
            <Popover
              button={`Do with ${people}`}
              buttonClass="btn btn-plain btn-sm"
              testid="bulk"
              panelClass="w-80 p-3"
            >
              {(close) => (
                <BulkPanel
                  choice={meant}
                  count={many}
                  people={people}
                  catalogue={catalogue}
                  owner={owner}
                  begun={() => {
                    close();
                    setBegun((n) => n + 1);
                  }}
                />
              )}
            </Popover>
            <Popover
              button={<Download className="size-4" aria-hidden="true" />}
              buttonClass="btn btn-plain btn-sm btn-square"
              label={`Take ${people} as a file`}
              panelClass="w-56 p-2"
            >
              {() => (
                <>
                  <p className="px-2 pb-1 text-note text-ink-2">{people} as a file</p>
                  <a className="block rounded px-2 py-1.5 hover:bg-base-200" href={within(file('csv'))} download>
                    CSV
                  </a>
                  <a className="block rounded px-2 py-1.5 hover:bg-base-200" href={within(file('xlsx'))} download>
                    Excel workbook
                  </a>
                  <a
                    className="block rounded px-2 py-1.5 hover:bg-base-200"
                    href={within(`/api/leads/consents?${queryOfChoice(meant)}`)}
                    download
                  >
                    Their consents, with the proof (CSV)
                  </a>
                </>
              )}
            </Popover>
          </div>
        )}
      </div>
      <BulkProgress begun={begun} locale={locale} />
    </div>
  );
}
