import { readAloud } from '../../core/workflow/read-aloud.ts';
import { stepKinds } from '../../steps/registry.ts';

/** The sheet as plain sentences, made from the same definition that runs. */
export function ReadToMe({
  draft,
  catalogue,
  labels,
  onClose,
}: {
  draft: Parameters<typeof readAloud>[0];
  catalogue: Parameters<typeof readAloud>[2];
  labels: Parameters<typeof readAloud>[3];
  onClose: () => void;
}) {
  return (
    <div className="p-3.5" data-testid="read-to-me">
      <div className="mb-2 flex items-center">
        <h2 className="grow text-part">What this sheet says</h2>
        <button type="button" className="btn btn-ghost btn-xs" onClick={onClose}>
          Close
        </button>
      </div>
      {readAloud(draft, stepKinds, catalogue, labels).map((part) => (
        <p key={part.momentId ?? 'sources'} className="mb-3 leading-relaxed">
          {part.sentences.join(' ')}
        </p>
      ))}
    </div>
  );
}
