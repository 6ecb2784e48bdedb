import { behind } from '../../../../app/choosing.ts';
import { EditRows, editRows, tabRows } from '../../../../app/sheet-rows.ts';
import { changes, gives } from '../../../../web/endpoint.ts';

/** Rows of one answer: little enough not to hold up the process. */
const AT_ONCE = 5000;

export const GET = gives((use, { id }, query) => tabRows(use, id!, behind(query.get('after')), AT_ONCE));
export const POST = changes(EditRows, (use, input, { id }) => editRows(use, id!, input));
