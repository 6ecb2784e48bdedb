import FileText from 'lucide-react/icons/file-text';
import X from 'lucide-react/icons/x';
import type { ReadyAnswer } from '../../app/conversations/ready-answers.ts';
import { within } from '../../client/within.ts';
import { Popover } from '../../components/Popover.tsx';

/** Where the reply window is shut: which approved template goes out, and how they will read it. */
export function TemplateToSend({
  templates,
  chosen,
  choose,
}: {
  templates: ReadyAnswer[];
  chosen: ReadyAnswer | undefined;
  choose: (id: string) => void;
}) {
  if (templates.length === 0)
    return (
      <p className="notice text-note">
        No template is approved yet. Write one under{' '}
        <a className="link" href={within('/messages/chat-templates')}>
          Chat templates
        </a>
        ; once the network has approved it, it can be sent here.
      </p>
    );
  return (
    <div>
      <select
        className="select select-sm"
        aria-label="Template to send"
        value={chosen?.id ?? ''}
        onChange={(event) => choose(event.target.value)}
      >
        <option value="">Choose a template</option>
        {templates.map((template) => (
          <option key={template.id} value={template.id}>
            {template.name}
          </option>
        ))}
      </select>
      {chosen && chosen.cannot !== '' && <p className="notice warn mt-2 text-note">{chosen.cannot}.</p>}
      {chosen && chosen.cannot === '' && (
        <div
          dir="auto"
          data-testid="template-words"
          className="mt-2 max-h-56 w-fit max-w-full overflow-y-auto rounded-2xl rounded-br-sm bg-pine-soft px-3 py-2 text-note break-words whitespace-pre-line"
        >
          {chosen.text}
          {chosen.offers.map((offer) => (
            <span key={offer} className="mt-1.5 block rounded-lg border border-pine-line px-2 py-0.5 text-center">
              {offer}
            </span>
          ))}
        </div>
      )}
    </div>
  );
}

/** A form of ours that goes along with what is written; nothing where there is none. */
export function FormToSend({
  forms,
  chosen,
  choose,
}: {
  forms: ReadyAnswer[];
  chosen: ReadyAnswer | undefined;
  choose: (id: string) => void;
}) {
  if (forms.length === 0) return null;
  if (chosen)
    return (
      <span className="pill inline-flex items-center gap-1">
        <FileText className="size-3.5" aria-hidden="true" />
        With the form “{chosen.name}”
        <button type="button" aria-label="Leave the form out" onClick={() => choose('')}>
          <X className="size-3.5" aria-hidden="true" />
        </button>
      </span>
    );
  return (
    <Popover button="Add a form" buttonClass="btn btn-ghost btn-sm" panelClass="max-h-80 w-72 p-2" placement="top-end">
      {(close) =>
        forms.map((form) => (
          <button
            key={form.id}
            type="button"
            className="block w-full rounded px-2 py-1.5 text-left hover:bg-base-200"
            onClick={() => {
              choose(form.id);
              close();
            }}
          >
            <span className="block font-semibold">{form.name}</span>
            <span className="block text-note text-ink-2">They open it by “{form.text}”</span>
          </button>
        ))
      }
    </Popover>
  );
}
