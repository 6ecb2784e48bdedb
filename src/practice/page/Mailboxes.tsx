import { useState } from 'react';
import { Bare, Choice } from '../../components/fields.tsx';
import { clock, type DeskState, post } from './desk-api.ts';

interface Props {
  desk: DeskState;
  chosen: string | null;
  onChoose: (mailbox: string) => void;
}

/** Mailboxes with their mails as received: headers, text, HTML. */
export function Mailboxes({ desk, chosen, onChoose }: Props) {
  const [mailId, setMailId] = useState<string | null>(null);
  const [part, setPart] = useState<'html' | 'text' | 'headers'>('html');
  const boxes = [...new Set(desk.mails.map((mail) => mail.mailbox).reverse())];
  const mails = desk.mails.filter((mail) => mail.mailbox === chosen).reverse();
  const mail = mails.find((mail) => mail.id === mailId) ?? mails[0];
  return (
    <>
      <h2 className="text-lg">Mailboxes</h2>
      {boxes.length === 0 && <p className="text-ink-2">No mail has come in yet.</p>}
      {boxes.length > 0 && (
        <Choice
          label="Mailbox"
          block="mt-2 block"
          value={chosen ?? ''}
          onChange={(text) => {
            onChoose(text);
            setMailId(null);
          }}
        >
          {boxes.map((box) => (
            <option key={box}>{box}</option>
          ))}
        </Choice>
      )}
      <ul className="mt-3 max-h-40 overflow-y-auto border-y border-base-300">
        {mails.map((one) => (
          <li key={one.id}>
            <button
              type="button"
              className={`flex w-full gap-3 px-2 py-1.5 text-left ${one.id === mail?.id ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
              onClick={() => setMailId(one.id)}
            >
              <time className="text-ink-2">{clock(one.at)}</time>
              <span className="truncate font-semibold">{one.subject}</span>
            </button>
          </li>
        ))}
      </ul>
      {mail && (
        <article className="mt-3">
          <h3 className="text-part">{mail.subject}</h3>
          <p className="text-note text-ink-2">From {mail.from}</p>
          {(mail.attachments ?? []).map((attachment) => (
            <p key={attachment.name} className="text-note">
              Attached: {attachment.name}, {Math.max(1, Math.round(attachment.bytes / 1024))} kB
            </p>
          ))}
          <MailButtons id={mail.id} />
          {desk.writesMail && <ReplyForm key={mail.id} id={mail.id} />}
          <div className="my-2 flex gap-1" role="tablist" aria-label="Parts of the mail">
            {(['html', 'text', 'headers'] as const).map((one) => (
              <button
                key={one}
                type="button"
                role="tab"
                aria-selected={part === one}
                className={`btn btn-xs ${part === one ? 'btn-primary' : 'btn-plain'}`}
                onClick={() => setPart(one)}
              >
                {one === 'html' ? 'As shown' : one === 'text' ? 'Plain text' : 'Headers'}
              </button>
            ))}
          </div>
          {part === 'html' && (
            <iframe
              title="The mail as shown"
              sandbox=""
              srcDoc={mail.html}
              className="h-[46vh] w-full rounded-lg border border-base-300 bg-white"
            />
          )}
          {part === 'text' && (
            <pre className="max-h-[46vh] overflow-auto rounded-lg border border-base-300 p-3 font-mono text-xs whitespace-pre-wrap">
              {mail.text}
            </pre>
          )}
          {part === 'headers' && (
            <dl className="max-h-[46vh] overflow-auto rounded-lg border border-base-300 p-3 font-mono text-xs">
              {mail.headers.map((header, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: headers of a mail never change
                <div key={i} className="mb-1">
                  <dt className="inline font-semibold">{header.name}: </dt>
                  <dd className="inline break-all">{header.value}</dd>
                </div>
              ))}
            </dl>
          )}
        </article>
      )}
    </>
  );
}

const BUTTONS = [
  ['unsubscribe', 'Unsubscribe'],
  ['spam', 'This is spam'],
  ['no-such-user', 'Send it back: no such user'],
  ['riddle', 'Send it back in riddles'],
  ['full', 'Report: mailbox full'],
] as const;

/** Answers a mail as its reader would, or as their machine does while they are away. */
function ReplyForm({ id }: { id: string }) {
  const [text, setText] = useState('');
  const [told, setTold] = useState('');
  const send = (automatic: boolean) =>
    void post<{ told: string }>(`/mails/${id}/reply`, {
      text: automatic ? 'I am away until Monday.' : text,
      automatic,
    }).then((came) => {
      setTold(came.told);
      setText('');
    });
  return (
    <form
      className="mt-2 flex flex-wrap gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        send(false);
      }}
    >
      <Bare label="Answer this mail" className="min-w-40 grow basis-0" value={text} onChange={setText} />
      <button type="submit" className="btn btn-primary btn-sm" disabled={text.trim() === ''}>
        Answer
      </button>
      <button type="button" className="btn btn-plain btn-sm" onClick={() => send(true)}>
        Out of office
      </button>
      {told && (
        <span className="basis-full text-xs text-ink-2" role="status">
          {told}
        </span>
      )}
    </form>
  );
}

/** What a mail program and a mail server can do with a mail later. */
function MailButtons({ id }: { id: string }) {
  const [told, setTold] = useState<{ id: string; text: string } | null>(null);
  return (
    <div className="mt-1 flex flex-wrap gap-1">
      {BUTTONS.map(([what, words]) => (
        <button
          key={what}
          type="button"
          className="btn btn-plain btn-xs"
          onClick={() =>
            void post<{ told: string }>(`/mails/${id}/${what}`, {}).then((came) => setTold({ id, text: came.told }))
          }
        >
          {words}
        </button>
      ))}
      {told?.id === id && (
        <span className="text-xs text-ink-2" role="status">
          {told.text}
        </span>
      )}
    </div>
  );
}

/** The newest mails of one mailbox, short. */
export function MailboxList({
  desk,
  mailbox,
  onOpen,
}: {
  desk: DeskState;
  mailbox: string | null;
  onOpen: () => void;
}) {
  const mails = desk.mails
    .filter((mail) => mail.mailbox === mailbox)
    .slice(-4)
    .reverse();
  return (
    <section className="mb-5">
      <h2 className="border-b border-base-300 pb-1 text-part break-all">{mailbox ?? 'Mailbox'}</h2>
      {mails.length === 0 && <p className="py-2 text-ink-2">No mail yet.</p>}
      {mails.map((mail) => (
        <button
          key={mail.id}
          type="button"
          className="block w-full border-b border-base-300 py-2 text-left last:border-0 hover:bg-base-200"
          onClick={onOpen}
        >
          <span className="block font-semibold">{mail.subject}</span>
          <span className="text-note text-ink-2">
            {mail.from.replace(/ <.*>/, '').replaceAll('"', '')}, {clock(mail.at)}
          </span>
        </button>
      ))}
    </section>
  );
}
