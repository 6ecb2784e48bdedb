import { within } from '../client/within.ts';
import type { Purpose } from '../core/workflow/purpose.ts';
import { Choice, Tick } from './fields.tsx';

/** What a message is for, and whether it needs consent: news and offers always do. */
export const ConsentChoice = ({
  what,
  needsConsent,
  purpose = 'service',
  onChange,
}: {
  what: string;
  needsConsent: boolean;
  purpose?: Purpose | undefined;
  onChange: (change: { needsConsent?: boolean; purpose?: Purpose }) => void;
}) => (
  <>
    <Choice
      label="What it is for"
      field="purpose"
      value={purpose}
      options={[
        ['service', 'About what they asked for or bought'],
        ['marketing', 'News or an offer'],
      ]}
      onChange={(next) => onChange({ purpose: next })}
    />
    {purpose === 'marketing' ? (
      <p className="mb-3 text-note text-ink-2">
        Goes only to those who agreed to news and offers, and counts towards what one person gets in a day (
        <a className="link" href={within('/settings')}>
          Settings
        </a>
        ).
      </p>
    ) : (
      <Tick
        label={`Only with consent to ${what}`}
        field="needsConsent"
        value={needsConsent}
        onChange={(on) => onChange({ needsConsent: on })}
      />
    )}
  </>
);
