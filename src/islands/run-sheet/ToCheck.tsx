import TriangleAlert from 'lucide-react/icons/triangle-alert';
import CircleCheck from 'lucide-react/icons/circle-check';
import { useState } from 'react';
import type { Finding } from '../../core/workflow/to-check.ts';

/** The running list of what would go wrong, each with a place to click. */
export function ToCheck({ findings, onGo }: { findings: Finding[]; onGo: (finding: Finding) => void }) {
  const [open, setOpen] = useState(false);
  if (findings.length === 0) return <span className="flex items-center gap-1.5 text-success"><CircleCheck className="size-4" aria-hidden="true" />Nothing to check</span>;
  return (
    <div className="relative" onKeyDown={(event) => event.key === 'Escape' && setOpen(false)}>
      <button type="button" className="btn btn-ghost btn-sm" aria-expanded={open} onClick={() => setOpen(!open)} data-testid="to-check"><TriangleAlert className="size-4" aria-hidden="true" />{findings.length} to check</button>
      {open && (
        <ul className="sheet-card absolute top-10 right-0 z-40 max-h-96 w-96 overflow-y-auto p-1 shadow-lg">
          {findings.map((finding) => (
            <li key={`${finding.place.stepId}-${finding.code}-${finding.text}`}>
              <button type="button" className="flex w-full gap-2 rounded px-2 py-1.5 text-left hover:bg-base-200" onClick={() => { setOpen(false); onGo(finding); }}>
                <span className={`pill mt-0.5 shrink-0 self-start ${finding.weight === 'must' ? 'bad' : 'warn'}`}>{finding.weight === 'must' ? 'Must' : 'Look'}</span>
                {finding.text}
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
