import { readAs } from '../read-as.ts';
import { EVERYBODY, LeadChoice } from './lead-choice.ts';

/** A choice as it stands in the address of a page: what is not said is left out. */
export function queryOfChoice({ ids, search, segment, condition, list, tag, source }: LeadChoice): URLSearchParams {
  const query = new URLSearchParams();
  if (search.trim() !== '') query.set('search', search.trim());
  if (segment) query.set('segment', segment);
  if (condition) query.set('if', JSON.stringify(condition));
  if (list) query.set('list', list.id);
  if (list?.state) query.set('state', list.state);
  if (tag) query.set('tag', tag);
  if (source) query.set('source', source);
  if (ids) query.set('ids', ids.join(','));
  return query;
}

/** The choice of an address; a part of it that makes no sense is left out. */
export function choiceOfQuery(query: URLSearchParams): LeadChoice {
  const choice: LeadChoice = { ...EVERYBODY, search: (query.get('search') ?? '').slice(0, 200) };
  const take = <K extends keyof LeadChoice>(key: K, value: unknown) => {
    const read = readAs(LeadChoice.shape[key], value);
    if (read.success) choice[key] = read.data as LeadChoice[K];
  };
  take('segment', query.get('segment'));
  take('tag', query.get('tag'));
  take('source', query.get('source'));
  if (query.has('ids')) take('ids', query.get('ids')!.split(','));
  if (query.has('list')) take('list', { id: query.get('list'), state: query.get('state') || null });
  try {
    take('condition', JSON.parse(query.get('if') ?? 'null'));
  } catch {
    // An address somebody has cut off: everybody else's part of it still counts.
  }
  return choice;
}
