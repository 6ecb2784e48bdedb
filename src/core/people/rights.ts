/**
 * Who may do what in a business: one table. Every door (a route of the API, a page, a use case) names one right, and whoever has the role may pass.
 * Source of the roles: docs/decisions/0061; which role has which right is our own choice.
 */

/** What one can be in a business, from most to least. */
export const ROLES = ['owner', 'manager', 'coordinator', 'desk', 'viewer'] as const;
export type Role = (typeof ROLES)[number];

export const RIGHTS = [
  'own',
  'see-work',
  'do-work',
  'see-setup',
  'see-results',
  'build',
  'manage',
  'keys',
  'people',
] as const;
export type Right = (typeof RIGHTS)[number];

interface RightWords {
  /** What it lets one do, after "may". */
  may: string;
  /** What is said to whoever has it not, and whom to ask. */
  refusal: string;
  roles: readonly Role[];
}

export const RIGHT: Record<Right, RightWords> = {
  own: {
    may: 'change their own sign-in, devices and what they are told of',
    refusal: 'Only the person themselves can do that.',
    roles: ROLES,
  },
  'see-work': {
    may: 'see leads, conversations, the pipeline, the calendar and tasks',
    refusal: 'Leads are not open to you here. Ask an owner of this business.',
    roles: ROLES,
  },
  'do-work': {
    may: 'answer leads, change what is known of them, move deals, enter appointments and settle tasks',
    refusal: 'You can look at this business but not change it. Ask an owner for more rights.',
    roles: ['owner', 'manager', 'coordinator', 'desk'],
  },
  'see-setup': {
    may: 'see workflows, sources, sheets, lists, messages, connections and who changed what',
    refusal: 'This part of the business is not open to you. Ask an owner if you need it.',
    roles: ['owner', 'manager', 'coordinator', 'viewer'],
  },
  'see-results': {
    may: 'see what each ad, message and month has brought and cost',
    refusal: 'Results are not open to you. Ask an owner if you need them.',
    roles: ['owner', 'manager', 'coordinator', 'viewer'],
  },
  build: {
    may: 'build workflows, set up sources, lists, sheets and messages, enter costs, do one thing with many leads and take leads out as a file',
    refusal: 'You can look at this but not change it. Ask a coordinator, or an owner for more rights.',
    roles: ['owner', 'manager', 'coordinator'],
  },
  manage: {
    may: 'change the business itself, its limits and what is kept, switch the practice world, and erase somebody for good',
    refusal: 'Only a manager or an owner of this business can do that.',
    roles: ['owner', 'manager'],
  },
  keys: {
    may: 'connect accounts of other services and change their keys',
    refusal: 'Only an owner of this business can connect accounts or change their keys.',
    roles: ['owner'],
  },
  people: {
    may: 'bring in people, say what each may do, and how they sign in',
    refusal: 'Only an owner of this business can do that.',
    roles: ['owner'],
  },
};

export const ROLE_WORDS: Record<Role, { name: string; sentence: string }> = {
  owner: { name: 'Owner', sentence: 'May do everything, also with people and the keys of connected accounts.' },
  manager: { name: 'Manager', sentence: 'May do everything but bring in people and change keys.' },
  coordinator: {
    name: 'Coordinator',
    sentence: 'Builds workflows and works with leads; leaves the business itself as it is.',
  },
  desk: {
    name: 'Desk',
    sentence: 'Works with leads, conversations, the calendar and tasks: all of them, or only some.',
  },
  viewer: { name: 'Viewer', sentence: 'Looks at everything and changes nothing.' },
};

export const mayDo = (role: Role, right: Right): boolean => RIGHT[right].roles.includes(role);

/** Whose leads, conversations, deals, appointments and tasks somebody at the desk works with. */
export const WHOSE_LEADS = ['all', 'team', 'own'] as const;
export type WhoseLeads = (typeof WHOSE_LEADS)[number];

export const WHOSE_LEADS_WORDS: Record<WhoseLeads, string> = {
  all: 'Every lead',
  team: 'Leads of people in their teams',
  own: 'Leads they look after themselves',
};

/** Whose leads somebody works with: only the desk can be kept to some. */
export const whoseLeads = (role: Role, set: WhoseLeads): WhoseLeads => (role === 'desk' ? set : 'all');

/** The rights of a role in words, in the order of the table: what it may, and what it may not. */
export const rightsInWords = (role: Role): { may: string[]; mayNot: string[] } => ({
  may: RIGHTS.filter((right) => mayDo(role, right)).map((right) => RIGHT[right].may),
  mayNot: RIGHTS.filter((right) => !mayDo(role, right)).map((right) => RIGHT[right].may),
});
