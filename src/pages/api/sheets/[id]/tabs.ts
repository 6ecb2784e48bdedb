import { addTab, NewTab } from '../../../../app/sheets.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(NewTab, (use, input, { id }) => addTab(use, id!, input));
