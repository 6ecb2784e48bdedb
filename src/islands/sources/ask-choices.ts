import { call } from '../../client/call.ts';
import type { Choices } from '../../sources/source-form.ts';

/** Asks the server what there is to choose from for a kind of source. */
export const askChoices =
  (kind: string | null): Choices =>
  ({ connection, q = '', after = null, of = '' }) =>
    call(
      'GET',
      `/api/sources/choices/${kind}?${new URLSearchParams({ connection, q, of, ...(after === null ? {} : { after }) })}`,
    );
