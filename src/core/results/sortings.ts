/** What results are sorted by, and the names on the way down. */
export const SORTED_BY = {
  campaign: { label: 'Campaign, ad set, ad', path: ['campaign', 'adSet', 'ad'] },
  site: { label: 'Site source, campaign', path: ['site', 'campaign', 'adSet', 'ad'] },
  medium: { label: 'Medium', path: ['medium', 'site'] },
  form: { label: 'Form', path: ['form'] },
  page: { label: 'Page', path: ['page'] },
  source: { label: 'Lead source', path: ['source'] },
  workflow: { label: 'Workflow', path: ['workflow'] },
  colleague: { label: 'Colleague', path: ['colleague'] },
  segment: { label: 'Segment, by its first word', path: ['segments', 'segment'] },
} as const satisfies Record<string, { label: string; path: readonly string[] }>;
export type SortedBy = keyof typeof SORTED_BY;
