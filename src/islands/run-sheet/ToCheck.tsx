import CircleCheck from 'lucide-react/icons/circle-check';
import TriangleAlert from 'lucide-react/icons/triangle-alert';
import { Popover } from '../../components/Popover.tsx';
import type { Finding } from '../../core/workflow/finding.ts';

/** The running list of what would go wrong, each with a place to click. */
export function ToCheck({ findings, onGo }: { findings: Finding[]; onGo: (finding: Finding) => void }) {
  if (findings.length === 0)
    return (
      <span className="flex items-center gap-1.5 text-success">
        <CircleCheck className="size-4" aria-hidden="true" />
        Nothing to check
      </span>
    );
  return (
    <Popover
      testid="to-check"
      button={
        <>
          <TriangleAlert className="size-4" aria-hidden="true" />
          {findings.length} to check
        </>
      }
      buttonClass="btn btn-ghost btn-sm"
      panelClass="max-h-96 w-96 p-1"
    >
      {(close) =>
        findings.map((finding) => (
          <button
            key={`${finding.place.stepId}-${finding.code}-${finding.text}`}
            type="button"
            className="flex w-full gap-2 rounded px-2 py-1.5 text-left hover:bg-base-200"
            onClick={() => {
              close();
              onGo(finding);
            }}
          >
            <span className={`pill mt-0.5 shrink-0 self-start ${finding.weight === 'must' ? 'bad' : 'warn'}`}>
              {finding.weight === 'must' ? 'Must' : 'Look'}
            </span>
            {finding.text}
          </button>
        ))
      }
    </Popover>
  );
}
