/** The kinds of answers a form page can ask for. */
export const FIELD_KINDS = ['short', 'long', 'email', 'phone', 'choice', 'date'] as const;
export const FIELD_KIND_LABELS: Record<(typeof FIELD_KINDS)[number], string> = {
  short: 'Short text',
  long: 'Long text',
  email: 'Email',
  phone: 'Phone',
  choice: 'Choice',
  date: 'Date',
};
