/** What one call does for us: what it is given, and what is read from its answer. */
export interface CallWork {
  label: string;
  given: Record<string, string>;
  reads: Record<string, string>;
  /** Its answer is a list. */
  items?: boolean;
  /** Read of the whole answer, beside its list. */
  besides?: Record<string, string>;
  needed: boolean;
}

const MESSAGE = {
  to: 'Number it goes to, like +447700900142',
  from: 'Sender',
  reference: 'Our key of this message, always the same for the same one',
  report_to: 'Address where deliveries and replies are reported',
};
const ACCOUNT: CallWork = {
  label: 'Try the key',
  given: {},
  reads: { name: 'Whose account it is', holds: 'What is in it' },
  needed: false,
};
const PAGE = {
  id: 'Its name there',
  name: 'What it is called',
  group: 'Its funnel',
  address: 'Its address',
  live: 'Whether it is in use',
};
/** What is read of an entry of a form, told or fetched. */
export const ENTRY = {
  ...{ id: 'Its name there', at: 'When it was sent in', form: 'Name of the form there', form_name: 'The form' },
  ...{ page: 'Name of the page there', page_name: 'The page', campaign: 'Campaign', ad_set: 'Ad set', ad: 'Ad' },
  ...{ hidden: 'What came along unseen, as a whole', answers: 'A list of key, label, value; or all of it as a whole' },
};
/** Where a service tells us of what happens there. */
const TOLD = { url: 'Address it is told at', secret: 'Secret that signs it' };
const LOOK = (what: string): CallWork => ({
  label: `Was it sent? Asked before ${what} is sent a second time`,
  given: { reference: MESSAGE.reference, to: MESSAGE.to, from: MESSAGE.from },
  reads: { id: 'Its name for the message; nothing when it never came' },
  needed: false,
});

/** Kinds of service that are asked for something of ours by name, with the calls that do it. Every other call is the description's own. */
export const WORKS = {
  text_carrier: {
    send: {
      label: 'Send a text',
      given: { ...MESSAGE, text: 'The text' },
      reads: { id: 'Its name for the text' },
      needed: true,
    },
    look: LOOK('a text'),
    account: ACCOUNT,
  },
  chat_network: {
    send: {
      label: 'Send a free message',
      given: {
        ...MESSAGE,
        text: 'The message',
        heading: 'Line above it',
        closing: 'Line below it',
        buttons: 'Words to tap, a list',
        form: 'Form it opens',
        form_token: 'Token of the form',
      },
      reads: { id: 'Its name for the message' },
      needed: true,
    },
    send_template: {
      label: 'Send a message of an approved template',
      given: {
        ...MESSAGE,
        template: 'The template',
        fields: 'Its fields',
        form: 'Form it opens',
        form_token: 'Token of the form',
      },
      reads: { id: 'Its name for the message' },
      needed: false,
    },
    hand_in_template: {
      label: 'Hand a template in for review',
      given: {
        name: 'Its name',
        kind: 'promotion or service',
        heading: 'Line above',
        text: 'The text',
        closing: 'Line below',
        buttons: 'Words to tap, a list',
        samples: 'A sample of each field',
        has_form: 'yes where it opens a form',
      },
      reads: { id: 'Its name for the template' },
      needed: false,
    },
    template_state: {
      label: 'How the review of a template went',
      given: { id: 'Its name for the template' },
      reads: { state: 'waiting, approved, refused or withdrawn', reason: 'Why' },
      needed: false,
    },
    hand_in_form: {
      label: 'Hand a form in',
      given: {
        name: 'Its name',
        heading: 'Heading',
        open: 'On the button',
        thanks: 'When it was sent',
        screens: 'Its screens, a list',
        consent: 'What is agreed to',
      },
      reads: { id: 'Its name for the form' },
      needed: false,
    },
    look: LOOK('a message'),
    account: ACCOUNT,
  },
  company_directory: {
    company: {
      label: 'Look up a company',
      given: { domain: 'What stands behind the @ of their address' },
      reads: { name: 'Company', sector: 'Sector', town: 'Town', country: 'Country', employees: 'Employees' },
      needed: true,
    },
    account: ACCOUNT,
  },
  booking_calendar: {
    calendars: {
      label: 'Calendars to choose from',
      given: {},
      reads: { id: 'Its name there', name: 'What it is called' },
      items: true,
      needed: false,
    },
    subscribe: {
      label: 'Have it tell a source of ours',
      given: { ...TOLD, calendars: 'Names of calendars, a list; nothing for all of them' },
      reads: {},
      needed: false,
    },
    account: ACCOUNT,
  },
  shop: {
    subscribe: {
      label: 'Have it tell a source of ours',
      given: { ...TOLD, events: 'Of what, a list' },
      reads: {},
      needed: false,
    },
    account: ACCOUNT,
  },
  funnel_host: {
    pages: {
      label: 'Pages to choose from',
      given: { search: 'Words that are looked for' },
      reads: PAGE,
      items: true,
      needed: false,
    },
    page: { label: 'One page', given: { page: 'Its name there' }, reads: PAGE, needed: false },
    subscribe: {
      label: 'Have it tell a source of ours',
      given: { ...TOLD, page: 'Name of the page', events: 'Of what, a list' },
      reads: {},
      needed: false,
    },
    account: ACCOUNT,
  },
  ad_platform: {
    forms: {
      label: 'Forms to choose from',
      given: {},
      reads: {
        ...{ id: 'Its name there', name: 'What it is called', page: 'Name of its page there', page_name: 'Its page' },
        live: 'Whether it is in use',
      },
      items: true,
      needed: true,
    },
    subscribe: {
      label: 'Have it tell a source of the entries of a form',
      given: { ...TOLD, form: 'Name of the form' },
      reads: {},
      needed: false,
    },
    subscribe_page: {
      label: 'Have it tell a source of the entries of all forms of a page',
      given: { ...TOLD, page: 'Name of the page' },
      reads: {},
      needed: false,
    },
    entries: {
      label: 'Entries of a form, the oldest first',
      given: { form: 'Name of the form', limit: 'How many; 0 where only those held are counted' },
      reads: ENTRY,
      items: true,
      besides: { held: 'How many there are from here on', first_expires: 'When the first of them is thrown away' },
      needed: false,
    },
    newest: {
      label: 'The newest entry of a form',
      given: { form: 'Name of the form' },
      reads: ENTRY,
      items: true,
      besides: { cursor: 'What those behind it are asked for with' },
      needed: false,
    },
    costs: {
      label: 'What ads cost, by day',
      given: { from: 'First day, like 2026-11-01', to: 'Last day' },
      reads: {
        ...{ day: 'Day', campaign: 'Campaign', ad_set: 'Ad set', ad: 'Ad', site: 'Site', cost: 'Cost' },
        ...{ currency: 'Currency', impressions: 'Times shown', clicks: 'Clicks' },
      },
      items: true,
      needed: false,
    },
    account: ACCOUNT,
  },
  service: { account: ACCOUNT },
} as const satisfies Record<string, Record<string, CallWork>>;
export type DescribedKind = keyof typeof WORKS;
export const DESCRIBED_KINDS = Object.keys(WORKS) as DescribedKind[];
export const isDescribed = (kind: string): kind is DescribedKind => Object.hasOwn(WORKS, kind);

/** Kinds of service that tell the connection what happens; those that are not among them tell each source at an address of its own. */
const TELL_THE_CONNECTION: ReadonlySet<string> = new Set(['text_carrier', 'chat_network', 'service']);
export const tellsTheConnection = (kind: string): boolean => TELL_THE_CONNECTION.has(kind);

export const worksOf = (kind: DescribedKind): Record<string, CallWork> => WORKS[kind];
