import Paperclip from 'lucide-react/icons/paperclip';
import { useId, useState } from 'react';
import { within } from '../client/within.ts';
import { bound } from '../components/bound.ts';
import { ConsentChoice } from '../components/ConsentChoice.tsx';
import { FileButton } from '../components/FileButton.tsx';
import { Bare, Tick } from '../components/fields.tsx';
import { TakeAway } from '../components/row-buttons.tsx';
import { sendFile } from '../components/send-file.ts';
import { ThingChoice } from '../components/ThingChoice.tsx';
import { TokenField } from '../components/TokenField.tsx';
import { subjectProblems } from '../core/email/subject-problems.ts';
import type { EmailSettings } from './email/definition.ts';
import type { StepFormProps } from './step-form.ts';

const MORE = [
  { name: 'fromName', label: 'Sender name' },
  { name: 'replyTo', label: 'Replies go to' },
  { name: 'cc', label: 'Copy to (seen by all)' },
  { name: 'bcc', label: 'Copy to (not seen)' },
  { name: 'preheader', label: 'Preview text' },
] as const;

type Props = Pick<StepFormProps<EmailSettings>, 'stepId' | 'settings' | 'change' | 'catalogue'>;

/** Everything that makes an email, whoever gets it. */
export function EmailFields({ stepId, settings, change, catalogue }: Props) {
  const of = bound(settings, change);
  return (
    <>
      <TokenField label="Subject" single {...of('subject')} />
      {subjectProblems(settings.subject).map((text) => (
        <p key={text} className="notice warn -mt-1 mb-3 text-note">
          {text}
        </p>
      ))}
      {(catalogue.emailTemplates.length > 0 || settings.template !== '') && (
        <ThingChoice
          label="The message"
          what="email-template"
          {...of('template')}
          others={[['', 'As written here']]}
          things={catalogue.emailTemplates.map(({ id, name }) => ({ id, name: `Template: ${name}` }))}
        />
      )}
      {settings.template === '' ? (
        <TokenField label="Message" {...of('message')} />
      ) : (
        <p className="mb-3 text-note">
          <a className="link" href={within(`/messages/templates/${settings.template}`)}>
            Open the template
          </a>
        </p>
      )}
      <details className="mb-2">
        <summary className="cursor-pointer text-note text-ink-2">Sender, reply address, copies</summary>
        <div className="mt-2">
          {MORE.map(({ name, label }) => (
            <TokenField
              key={`${stepId}-${name}`}
              field={name}
              label={label}
              single
              value={settings[name]}
              onChange={(value) => change({ [name]: value })}
            />
          ))}
        </div>
      </details>
      <Attached settings={settings} change={change} />
      <ConsentChoice what="email" needsConsent={settings.needsConsent} purpose={settings.purpose} onChange={change} />
      <Tick label="Count clicks on its links" {...of('countLinks')} />
      <Tick label="Count opens" {...of('countOpens')} />
    </>
  );
}

const size = (bytes: number) =>
  bytes < 1024 * 1024 ? `${Math.max(1, Math.round(bytes / 1024))} kB` : `${(bytes / 1024 / 1024).toFixed(1)} MB`;

/** Files that go with it: kept here, or fetched from an address when it goes out. */
function Attached({ settings, change }: Pick<Props, 'settings' | 'change'>) {
  const id = useId();
  const [told, setTold] = useState('');
  const { attachments } = settings;
  const set = (next: EmailSettings['attachments']) => change({ attachments: next });
  /** What one attachment from an address is called, or where it is fetched. */
  const of = (i: number, what: 'name' | 'url') => {
    const one = attachments[i];
    return {
      value: one?.from === 'address' ? one[what] : '',
      maxLength: what === 'name' ? 200 : 2000,
      onChange: (typed: string) =>
        set(
          attachments.map((other, at) => (at === i && other.from === 'address' ? { ...other, [what]: typed } : other)),
        ),
    };
  };
  const upload = async (file: File) => {
    setTold('');
    try {
      const {
        id: fileId,
        name,
        bytes,
      } = await sendFile<{ id: string; name: string; bytes: number }>('/api/files', file);
      set([...attachments, { from: 'file', fileId, name, bytes }]);
    } catch (error) {
      setTold((error as Error).message);
    }
  };
  return (
    <fieldset className="mb-3" data-field="attachments">
      <legend className="field-label">Attached</legend>
      {attachments.map((attachment, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the same file can be attached twice
        <div key={`${id}-${i}`} className="mb-1 flex items-center gap-1 text-note">
          <Paperclip className="size-3.5 shrink-0 text-ink-2" aria-hidden="true" />
          {attachment.from === 'file' ? (
            <span className="grow truncate">
              {attachment.name}, {size(attachment.bytes)}
            </span>
          ) : (
            <>
              <Bare tiny label="Name of the file" className="w-24" placeholder="name.pdf" {...of(i, 'name')} />
              <Bare tiny label="Address of the file" className="grow" placeholder="https://" {...of(i, 'url')} />
            </>
          )}
          <TakeAway
            label={`Remove ${attachment.name || 'the file'}`}
            onClick={() => set(attachments.filter((_, at) => at !== i))}
          />
        </div>
      ))}
      <div className="flex gap-1">
        <FileButton looks="btn-ghost btn-xs" onFile={(file) => void upload(file)}>
          Attach a file
        </FileButton>
        <button
          type="button"
          className="btn btn-ghost btn-xs"
          onClick={() => set([...attachments, { from: 'address', url: '', name: 'file.pdf' }])}
        >
          From an address
        </button>
      </div>
      {told && (
        <p className="notice bad mt-1 text-note" role="alert">
          {told}
        </p>
      )}
    </fieldset>
  );
}
