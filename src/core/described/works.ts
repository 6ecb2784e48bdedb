/** What one call does for us: what it is given, and what is read from its answer. */
export interface CallWork {
  label: string;
  given: Record<string, string>;
  reads: Record<string, string>;
  /** Its answer is a list. */
  items?: boolean;
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
  service: { account: ACCOUNT },
} as const satisfies Record<string, Record<string, CallWork>>;
export type DescribedKind = keyof typeof WORKS;
export const DESCRIBED_KINDS = Object.keys(WORKS) as DescribedKind[];
export const isDescribed = (kind: string): kind is DescribedKind => Object.hasOwn(WORKS, kind);

export const worksOf = (kind: DescribedKind): Record<string, CallWork> => WORKS[kind];
