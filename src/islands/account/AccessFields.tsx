import { Choice, Line } from '../../components/fields.tsx';
import type { AccessSettings } from '../../core/described/access.ts';

const FRESH: AccessSettings = {
  ...{ authorizeAddress: '', tokenAddress: '', clientId: '', scope: '', more: '', shows: 'body' },
};
const LINES: readonly (readonly [key: Exclude<keyof AccessSettings, 'shows'>, label: string, placeholder: string])[] = [
  ['authorizeAddress', 'Address of the page where access is allowed', 'https://mail.example/oauth/authorize'],
  ['tokenAddress', 'Address tokens are fetched from', 'https://mail.example/oauth/token'],
  ['clientId', 'Client ID', ''],
  ['scope', 'Scope: what we ask to be allowed', ''],
  ['more', 'What its page wants to know besides, like access=offline', ''],
];

/** Whether a mail server or mailbox is signed in to by a password or by access somebody allows (OAuth 2), and how that is asked for. */
export function AccessFields({
  value,
  onChange,
}: {
  value: AccessSettings | null;
  onChange: (value: AccessSettings | null) => void;
}) {
  return (
    <>
      <Choice
        label="It is signed in to by"
        block="mb-2 block"
        small
        value={value ? 'access' : 'password'}
        options={[
          ['password', 'User name and password'],
          ['access', 'Access somebody allows on its own page (OAuth 2)'],
        ]}
        onChange={(way) => onChange(way === 'access' ? (value ?? FRESH) : null)}
      />
      {value &&
        LINES.map(([key, label, placeholder]) => (
          <Line
            key={key}
            label={label}
            block="mb-2 block"
            small
            maxLength={1000}
            placeholder={placeholder}
            value={value[key]}
            onChange={(text) => onChange({ ...value, [key]: text })}
          />
        ))}
    </>
  );
}
