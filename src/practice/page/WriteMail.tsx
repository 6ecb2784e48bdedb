import { useState } from 'react';
import { bound } from '../../components/bound.ts';
import { Area, Line, Tick } from '../../components/fields.tsx';
import { someoneNew } from '../someone-new.ts';
import { post } from './desk-api.ts';

const enquiry = () => {
  const person = someoneNew();
  return {
    from: `${person.first} ${person.last} <${person.email}>`,
    subject: 'New enquiry from the website',
    text: `Name: ${person.first} ${person.last}\nEmail: ${person.email}\nPhone: ${person.phone}\nInstrument: Cello\nConsent: yes\n\nMessage: Could we come on a Saturday?`,
  };
};

/** Writes a mail to an address of Pine Bell's, as a website's contact form or a customer would. */
export function WriteMail() {
  const [mail, setMail] = useState({ to: '', automatic: false, ...enquiry() });
  const [told, setTold] = useState('');
  const set = (change: Partial<typeof mail>) => setMail({ ...mail, ...change });
  const of = bound(mail, set);
  return (
    <form
      className="mb-4 border-b border-base-300 pb-4"
      onSubmit={(event) => {
        event.preventDefault();
        setTold('Sending …');
        post<{ told: string }>('/mails', mail).then(
          (answer) => setTold(`The mail listener said: ${answer.told}`),
          (error: Error) => setTold(error.message),
        );
      }}
    >
      <h2 className="text-lg">Write a mail</h2>
      <p className="mb-2 text-note text-ink-2">To the address of a mailbox source; copy it from the source's page.</p>
      <div className="grid grid-cols-2 gap-2">
        {(['to', 'from'] as const).map((key) => (
          <Line
            key={key}
            label={key === 'to' ? 'To' : 'From'}
            block="block"
            small
            value={mail[key]}
            required
            maxLength={2000}
            onChange={(text) => set({ [key]: text })}
          />
        ))}
      </div>
      <Line label="Subject" block="mt-2 block" small {...of('subject')} maxLength={2000} />
      <Area label="Text" block="mt-2 block" {...of('text')} rows={6} />
      <div className="mt-2 flex items-center gap-3">
        <button className="btn btn-primary btn-sm" type="submit">
          Send the mail
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => set(enquiry())}>
          Someone new
        </button>
        <Tick label="It is an automatic reply" block="flex items-center gap-2 text-note" {...of('automatic')} />
      </div>
      <p className="mt-1 min-h-5 text-note text-ink-2" role="status">
        {told}
      </p>
    </form>
  );
}
