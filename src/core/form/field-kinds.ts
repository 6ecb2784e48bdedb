/** The kinds of answers a form can ask for. */
export const FIELD_KINDS = ['short', 'long', 'email', 'phone', 'choice', 'date', 'tick'] as const;
/** Those a form in chat can ask for. */
export const CHAT_FIELD_KINDS = ['short', 'email', 'phone', 'choice', 'date', 'tick'] as const;
export const FIELD_KIND_LABELS: Record<(typeof FIELD_KINDS)[number], string> = {
  short: 'Short text',
  long: 'Long text',
  email: 'Email',
  phone: 'Phone',
  choice: 'Choice',
  date: 'Date',
  tick: 'Tick',
};
