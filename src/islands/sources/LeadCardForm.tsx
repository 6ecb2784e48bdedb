import { useState } from 'react';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Area, Choice, Line, Tick } from '../../components/fields.tsx';
import { Hint } from '../../components/Hint.tsx';
import type { Field } from '../../core/fields/field.ts';
import {
  consentScope,
  LEAD_FIELD_LABELS,
  LEAD_FIELDS,
  type LeadCard,
  type LeadField,
} from '../../core/source/lead-card.ts';
import { CHANNEL_WORDS, CHANNELS, type Channel } from '../../core/workflow/channel.ts';
import { PURPOSE_WORDS, type Purpose } from '../../core/workflow/purpose.ts';

interface Props {
  fields: Field[];
  start: LeadCard;
  confirmed: boolean;
  /** News has nobody in it: its fields are looked at, and none of them is a person's. */
  news: boolean;
  /** What is on the button the first time. */
  firstButton: string;
  usedBy: { id: string; name: string }[];
  onSave: (card: LeadCard) => Promise<void>;
}

/** Every field of the sample with its value, and what it is on the lead. */
export function LeadCardForm({ fields, start, confirmed, news, firstButton, usedBy, onSave }: Props) {
  const [card, setCard] = useState(start);
  const { act, busy, told } = useAction();
  const asWhat = (key: string) =>
    LEAD_FIELDS.find((as) => card.fields[as] === key) ??
    (card.consent.kind === 'field' && card.consent.key === key
      ? 'consent'
      : card.consent.kind === 'field' && card.consent.wordingKey === key
        ? 'wording'
        : '');
  const set = (key: string, as: string) => {
    const kept = Object.fromEntries(
      Object.entries(card.fields).filter(([name, value]) => value !== key && name !== as),
    ) as LeadCard['fields'];
    let { consent } = card;
    if (consent.kind === 'field' && consent.key === key) consent = { kind: 'not_asked' };
    if (consent.kind === 'field' && consent.wordingKey === key) consent = { ...consent, wordingKey: null };
    if (as === 'consent') consent = { ...scopeOf(consent), kind: 'field', key, wordingKey: null };
    if (as === 'wording' && consent.kind === 'field') consent = { ...consent, wordingKey: key };
    if ((LEAD_FIELDS as readonly string[]).includes(as)) kept[as as LeadField] = key;
    setCard({ fields: kept, consent });
  };
  const save = () => act(() => onSave(card));
  return (
    <section className="sheet-card p-4" aria-label="Lead card">
      <span className="flex items-center gap-1">
        <h2 className="text-part">{news ? 'What it brings' : 'Lead card'}</h2>
        {!news && <Hint term="leadCard" />}
      </span>
      <p className="mb-3 text-note text-ink-2">
        {news
          ? 'News, not people: a workflow can tell your team, or work with these fields.'
          : confirmed
            ? 'Which field is which, for every workflow that uses this source.'
            : 'We have guessed which field is which. Put right what is wrong.'}
      </p>
      <table className="table table-sm mb-3">
        <thead>
          <tr>
            <th>Field</th>
            <th>In this sample</th>
            {!news && <th>Is the lead's</th>}
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field.key}>
              <td className="font-semibold break-words">{field.label}</td>
              <td className="max-w-64 break-words">
                {field.value.slice(0, 300) || <span className="text-ink-3">empty</span>}
              </td>
              {!news && (
                <td>
                  <select
                    className="select select-sm"
                    aria-label={`What ${field.label} is`}
                    value={asWhat(field.key)}
                    onChange={(event) => set(field.key, event.target.value)}
                  >
                    <option value="">an answer, kept as it is</option>
                    {LEAD_FIELDS.map((as) => (
                      <option key={as} value={as}>
                        {LEAD_FIELD_LABELS[as]}
                      </option>
                    ))}
                    <option value="consent">Consent to be written to</option>
                    {card.consent.kind === 'field' && <option value="wording">Wording of the consent</option>}
                  </select>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {!news && card.consent.kind !== 'field' && (
        <div className="mb-3">
          <Tick
            label="Consent is asked elsewhere"
            block="flex items-start gap-2"
            value={card.consent.kind === 'asked_elsewhere'}
            onChange={(on) =>
              setCard({
                ...card,
                consent: on ? { kind: 'asked_elsewhere', note: '', wording: '' } : { kind: 'not_asked' },
              })
            }
            note="Every lead of this source then counts as having agreed, unless they have said or left unticked something else themselves, before or after."
          />
          {card.consent.kind === 'asked_elsewhere' && (
            <AskedElsewhere consent={card.consent} onChange={(consent) => setCard({ ...card, consent })} />
          )}
        </div>
      )}
      {!news && card.consent.kind !== 'not_asked' && <ConsentScope card={card} onChange={setCard} />}
      <Notice told={told} className="mb-3" />
      <div className="flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-primary" disabled={busy} onClick={() => void save()}>
          {confirmed ? 'Save the lead card' : firstButton}
        </button>
        {usedBy.length > 0 && (
          <span className="text-note text-ink-2">Used by {usedBy.map((one) => one.name).join(', ')}</span>
        )}
      </div>
    </section>
  );
}

type Elsewhere = Extract<LeadCard['consent'], { kind: 'asked_elsewhere' }>;

/** Where consent is asked outside, and with which words: both are kept as the proof. */
function AskedElsewhere({ consent, onChange }: { consent: Elsewhere; onChange(consent: Elsewhere): void }) {
  return (
    <div className="mt-2 ml-6 grid gap-2">
      <Line
        label="Where they are asked"
        block="block"
        small
        value={consent.note}
        placeholder="on the paper form at the front desk"
        maxLength={2000}
        onChange={(text) => onChange({ ...consent, note: text })}
      />
      <Area
        label="The words they agree to, as they stand there"
        block="block"
        small
        value={consent.wording ?? ''}
        rows={2}
        onChange={(text) => onChange({ ...consent, wording: text })}
      />
    </div>
  );
}

const scopeOf = (consent: LeadCard['consent']) =>
  consent.kind === 'not_asked' ? {} : { about: consent.about, channels: consent.channels };

/** What a yes at this source allows. */
function ConsentScope({ card, onChange }: { card: LeadCard; onChange: (card: LeadCard) => void }) {
  const { purpose, channels } = consentScope(card);
  const { consent } = card;
  if (consent.kind === 'not_asked') return null;
  const set = (patch: { about?: 'all' | Purpose; channels?: Channel[] }) =>
    onChange({ ...card, consent: { ...consent, ...patch } });
  return (
    <div className="mb-3 rounded-lg bg-base-200 p-3" data-testid="consent-scope">
      <Choice
        label="What they agree to is about"
        value={purpose ?? 'all'}
        options={[
          ['all', 'everything: what they asked for, and news and offers'],
          ['service', `only ${PURPOSE_WORDS.service}`],
          ['marketing', `only ${PURPOSE_WORDS.marketing}`],
        ]}
        onChange={(about) => set({ about })}
      />
      <div className="flex flex-wrap gap-x-5">
        {CHANNELS.map((channel) => (
          <Tick
            key={channel}
            label={CHANNEL_WORDS[channel].many}
            value={channels.includes(channel)}
            onChange={(on) =>
              set({ channels: CHANNELS.filter((one) => (one === channel ? on : channels.includes(one))) })
            }
          />
        ))}
      </div>
    </div>
  );
}
