import { Tick } from './Choice.tsx';

/** Whether a message needs consent. */
export const ConsentChoice = ({
  what,
  needsConsent,
  onChange,
}: {
  what: string;
  needsConsent: boolean;
  onChange: (needs: boolean) => void;
}) => <Tick label={`Only with consent to ${what}`} field="needsConsent" on={needsConsent} onChange={onChange} />;
