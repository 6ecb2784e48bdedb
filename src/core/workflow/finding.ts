/** One thing that would go wrong, with the place to click. */
export interface Finding {
  /** `must` stops the workflow from going live; `look` is worth a look. */
  weight: 'must' | 'look';
  code: string;
  text: string;
  place:
    | { stepId: string; field: string | null }
    | { stepId: null; field: 'sources' | 'sample' | 'sheet' | 'rules' }
    | { stepId: null; field: 'moment'; momentId: string };
  field?: string;
}
