import { CopyLine } from '../../components/CopyLine.tsx';
import { Choice, Line } from '../../components/fields.tsx';
import { SignIn } from '../../core/described/description.ts';

const WAYS: readonly (readonly [SignIn['way'], string])[] = [
  ['none', 'Not at all'],
  ['bearer', 'A key in the header “Authorization: Bearer”'],
  ['header', 'A key in a header of its own'],
  ['query', 'A key in the address'],
  ['basic', 'User name and password'],
  ['hmac', 'A signature over what is sent (HMAC)'],
  ['oauth2-client', 'A token fetched with client ID and secret (OAuth 2)'],
  ['oauth2-code', 'Access somebody allows on its own page (OAuth 2)'],
  ['certificate', 'A certificate of ours (mutual TLS)'],
];
/** What each way is begun with. */
const FRESH: Record<SignIn['way'], object> = {
  none: {},
  bearer: { token: '{{ account.key }}' },
  header: { name: 'x-api-key', value: '{{ account.key }}' },
  query: { name: 'key', value: '{{ account.key }}' },
  basic: { user: '{{ account.user }}', password: '{{ account.key }}' },
  hmac: {
    key: '{{ account.key }}',
    over: '{{ given.time }}.{{ given.body }}',
    header: 'x-signature',
    timeHeader: 'x-timestamp',
  },
  'oauth2-client': {
    tokenAddress: '{{ account.address }}/oauth/token',
    clientId: '{{ account.user }}',
    clientSecret: '{{ account.key }}',
  },
  'oauth2-code': {
    authorizeAddress: '{{ account.address }}/oauth/authorize',
    tokenAddress: '{{ account.address }}/oauth/token',
    clientId: '{{ account.user }}',
    clientSecret: '{{ account.key }}',
  },
  certificate: { certificate: '{{ account.certificate }}', key: '{{ account.key }}' },
};
/** The words of each text of a way. */
const LABELS: Record<string, string> = {
  name: 'Its name',
  value: 'What stands in it',
  user: 'User name',
  password: 'Password',
  token: 'Key',
  key: 'Key that signs',
  over: 'What is signed: given.method, given.path, given.time, given.nonce, given.body',
  header: 'Header the signature goes in',
  prefix: 'Before the signature',
  timeHeader: 'Header the time goes in',
  nonceHeader: 'Header a random word goes in',
  authorizeAddress: 'Address of the page where access is allowed',
  tokenAddress: 'Address tokens are fetched from',
  clientId: 'Client ID',
  clientSecret: 'Client secret',
  scope: 'Scope: what we ask to be allowed',
  more: 'What its page wants to know besides, like access=offline',
  certificate: 'Certificate (PEM)',
};
const CHOICES: Record<string, readonly (readonly [string, string])[]> = {
  digest: [
    ['sha256', 'SHA-256'],
    ['sha1', 'SHA-1'],
    ['sha512', 'SHA-512'],
  ],
  encoding: [
    ['hex', 'hexadecimal'],
    ['base64', 'base64'],
  ],
  time: [
    ['seconds', 'seconds since 1970'],
    ['milliseconds', 'milliseconds since 1970'],
    ['iso', 'ISO 8601'],
  ],
  shows: [
    ['basic', 'in a header'],
    ['body', 'in the body'],
  ],
};
const CHOICE_LABELS: Record<string, string> = {
  digest: 'Digest',
  encoding: 'Written in',
  time: 'Time as',
  shows: 'Client ID and secret go',
};

/** The database keeps fields in an order of its own: here each stands where its label does. */
const ORDER = [...Object.keys(LABELS), ...Object.keys(CHOICES)];
const inOrder = (value: SignIn): [string, string][] =>
  Object.entries(value).sort(([a], [b]) => ORDER.indexOf(a) - ORDER.indexOf(b));

/** How the service is signed in to. */
export function SignInEditor({
  value,
  backTo,
  onChange,
}: {
  value: SignIn;
  /** Where a service's own page sends people back to. */
  backTo: string;
  onChange: (value: SignIn) => void;
}) {
  const set = (key: string, text: string) => onChange({ ...value, [key]: text } as SignIn);
  return (
    <>
      <Choice
        label="It is signed in to by"
        small
        value={value.way}
        options={WAYS}
        onChange={(way) => onChange(SignIn.parse({ way, ...FRESH[way] }))}
      />
      <div className="grid gap-x-3 sm:grid-cols-2">
        {inOrder(value).map(([key, text]) =>
          key === 'way' ? null : CHOICES[key] ? (
            <Choice
              key={key}
              label={CHOICE_LABELS[key]!}
              small
              value={text}
              options={CHOICES[key]}
              onChange={(one) => set(key, one)}
            />
          ) : (
            <Line
              key={key}
              label={LABELS[key] ?? key}
              small
              maxLength={5000}
              value={text}
              onChange={(one) => set(key, one)}
            />
          ),
        )}
      </div>
      {value.way === 'oauth2-code' && (
        <div className="mb-3 rounded-lg bg-base-200 p-3">
          <p className="mb-2 text-note text-ink-2">
            The service wants to know beforehand where people come back to. Enter this address there, where it gives you
            the client ID:
          </p>
          <CopyLine text={backTo} what="Address to come back to" />
        </div>
      )}
    </>
  );
}
