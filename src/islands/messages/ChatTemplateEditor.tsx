import { useMemo, useRef, useState } from 'react';
import type { ChatTemplateView } from '../../app/messages/chat-templates.ts';
import { call } from '../../client/call.ts';
import { useAction } from '../../client/use-action.ts';
import { useLive } from '../../client/use-live.ts';
import { within } from '../../client/within.ts';
import { ButtonList } from '../../components/ButtonList.tsx';
import { bound } from '../../components/bound.ts';
import { FieldPickerContext, UNSAID } from '../../components/field-picker.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import {
  CHAT_TEMPLATE_MOST,
  type ChatTemplateContent,
  chatTemplateProblems,
  TEMPLATE_STATES,
  templateFields,
} from '../../core/message/chat-template.ts';
import { readReference, referenceLabel } from '../../core/template/field-reference.ts';
import { READER_FIELDS } from './reader-fields.ts';
import { VersionButtons } from './VersionButtons.tsx';

const PICKER = {
  fields: READER_FIELDS.filter((field) => field.key !== 'leave_link'),
  labels: new Map<string, string>(),
  surroundings: UNSAID,
  setTarget: () => {},
};
const labelOf = (reference: string) => {
  const read = readReference(reference);
  return read ? referenceLabel(read) : reference;
};

/** A chat template: written, seen on a phone as it is typed, sent for review, and what became of that. */
export default function ChatTemplateEditor({
  first,
  business,
  forms,
  changes,
}: {
  first: ChatTemplateView;
  business: string;
  /** Chat forms it may open. */
  forms: { id: string; name: string; open: string }[];
  changes: boolean;
}) {
  const [view, setView] = useState(first);
  const [content, setContent] = useState(first.content);
  const action = useAction();
  const dirty = JSON.stringify(content) !== JSON.stringify(view.content);
  const problems = useMemo(() => chatTemplateProblems(content), [content]);
  const set = (patch: Partial<ChatTemplateContent>) => setContent({ ...content, ...patch });
  const of = bound(content, set);
  // The network's word comes in while one looks.
  useLive(async () => setView(await call('GET', `/api/chat-templates/${first.id}`)));
  /** What the words on the screen were begun from; what a colleague saves meanwhile is shown, and not written over. */
  const seen = useRef(first.seen);
  const act = (work: () => Promise<ChatTemplateView>) =>
    action.act(async () => {
      const next = await work();
      setView(next);
      seen.current = next.seen;
      setContent(next.content);
    });
  const save = async () => {
    const next = await call('PUT', `/api/chat-templates/${first.id}`, content, seen.current);
    seen.current = next.seen;
    return next;
  };
  const shown = templateFields(content).reduce(
    (words, reference) =>
      words.replaceAll(
        new RegExp(`\\{\\{\\s*${reference.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}\\s*\\}\\}`, 'g'),
        content.samples[reference] || `[${labelOf(reference)}]`,
      ),
    content.text,
  );
  const open = view.state === 'draft' || view.state === 'refused';
  return (
    <main className="mx-auto grid max-w-[1000px] gap-6 p-5 grid-cols-1 md:grid-cols-[minmax(0,1fr)_300px]">
      <section className="sheet-card p-4">
        <p className="mb-1 text-note text-ink-2">
          <a className="hover:underline" href={within('/messages/chat-templates')}>
            Chat templates
          </a>
        </p>
        <h1 className="mb-3 text-xl">{view.name}</h1>
        <Choice
          label="Kind"
          {...of('kind')}
          options={[
            ['service', 'Service: about what they asked for'],
            ['promotion', 'Promotion: it wants to sell'],
          ]}
        />
        <Line label="Heading" {...of('heading')} maxLength={CHAT_TEMPLATE_MOST.heading} />
        <FieldPickerContext.Provider value={PICKER}>
          <TokenField label="Text" {...of('text')} />
        </FieldPickerContext.Provider>
        {templateFields(content).map((reference) => (
          <Line
            key={reference}
            label={`Sample for ${labelOf(reference)}, as reviewers see it`}
            value={content.samples[reference] ?? ''}
            onChange={(value) => set({ samples: { ...content.samples, [reference]: value } })}
          />
        ))}
        <Line label="Closing line" {...of('closing')} maxLength={CHAT_TEMPLATE_MOST.closing} />
        <ButtonList
          buttons={content.buttons}
          most={CHAT_TEMPLATE_MOST.buttons}
          longest={CHAT_TEMPLATE_MOST.button}
          onChange={(buttons) => set({ buttons })}
        />
        <Choice
          label="It opens a chat form"
          value={content.form ?? ''}
          options={[['', 'None'], ...forms.map((form) => [form.id, form.name] as const)]}
          onChange={(form) => set({ form })}
        />
      </section>
      <aside className="self-start">
        <div className="phone mb-4 bg-base-200 p-3" data-testid="chat-preview">
          <p className="mb-2 text-center text-xs text-ink-2">{business}, in chat</p>
          <div
            className="max-w-[92%] rounded-2xl rounded-bl-sm bg-base-100 px-3 py-2 break-words whitespace-pre-line"
            dir="auto"
          >
            {content.heading && <p className="font-semibold">{content.heading}</p>}
            <p>{shown}</p>
            {content.closing && <p className="text-note text-ink-2">{content.closing}</p>}
            {[
              ...content.buttons.filter(Boolean),
              ...forms.filter((form) => form.id === content.form).map((form) => form.open),
            ].map((button) => (
              <span
                key={button}
                className="mt-1.5 block rounded-lg border border-base-300 px-2 py-1 text-center font-medium"
              >
                {button}
              </span>
            ))}
          </div>
        </div>
        <div className="sheet-card p-4">
          <p className="mb-1">
            <span
              className={`pill ${view.state === 'approved' ? 'good' : view.state === 'waiting' ? 'slate' : view.state === 'draft' ? '' : 'bad'}`}
              data-testid="review-state"
            >
              {TEMPLATE_STATES[view.state].words}
            </span>{' '}
            <span className="text-note text-ink-2">version {view.version}</span>
          </p>
          {view.reason && <p className="notice bad mb-2 text-note">{view.reason}</p>}
          {view.sentVersion !== null && view.sentVersion !== view.version && (
            <p className="mb-2 text-note text-ink-2">Version {view.sentVersion} is sent meanwhile.</p>
          )}
          {problems.map((problem) => (
            <p key={problem} className="notice warn mb-2 text-note">
              {problem}
            </p>
          ))}
          <VersionButtons
            what="template"
            share={`/api/chat-templates/${first.id}/share`}
            version={view.version}
            draft={open}
            dirty={dirty}
            mayOut={problems.length === 0 && (dirty || open || view.state === 'withdrawn')}
            out="Send it for review"
            usedBy={view.usedBy}
            told={action.told}
            changes={changes}
            onSave={() => void act(save)}
            onOut={() =>
              void act(async () => {
                if (dirty || view.state === 'withdrawn') await save();
                return call('POST', `/api/chat-templates/${first.id}/review`);
              })
            }
            onRemove={() =>
              void act(async () => {
                await call('DELETE', `/api/chat-templates/${first.id}`);
                location.assign(within('/messages/chat-templates'));
                return view;
              })
            }
          />
        </div>
      </aside>
    </main>
  );
}
